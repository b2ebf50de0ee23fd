#pragma once
// Files of facets -> solids, whose faces are smooth between sharp edges.

#include <filesystem>
#include <vector>

#include "part/facets/facet_mesh.hpp"
#include "part/solid/solid_part.hpp"

namespace dotsift {

/// One body each, of the regions solid1, solid2, ..., the largest first. Faces carry the names of the file's groups.
/// Patches that lie in a plane are planes. Edges run smoothly through corners at which facets turn by less than the
/// angle. `factor`: of the study's unit in one of the file's; `feature_angle` in radians. What was mended is told in
/// `notes`. Throws InputError.
std::vector<SolidPart> solids_of_facets(const std::filesystem::path& file, double factor, double feature_angle,
                                        std::vector<std::string>& notes);

/// The same of facets.
SolidPart solid_of_facets(FacetMesh mesh, double feature_angle);

}  // namespace dotsift
