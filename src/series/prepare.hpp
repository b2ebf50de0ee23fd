#pragma once
// The first mesh of a study, with the tries that [mesh.retry] allows.

#include <string>
#include <vector>

#include "base/errors.hpp"
#include "part/checks/check_study.hpp"
#include "quality/make_mesh.hpp"

namespace dotsift {

/// A way to make the first mesh, and why it failed.
struct FailedTry {
    double sizes = 1;         ///< factor on every size
    double merge_points = 0;  ///< length below which points of the part became one; 0: as the study says
    std::string reason;
    Place place;
};

struct Prepared {
    StudyAndPart opened;  ///< with sizes and clean-up as in the last try
    MeshingLog log;       ///< of the last try
    std::vector<FailedTry> failed;
};

/// Makes the first mesh. Where that fails and the study has a rule for tries, sizes and part are changed and it is
/// begun again; the first change that leads to a mesh stays in `opened`, for all levels, so that they are comparable.
/// `finer` divides the sizes. Throws MeshError if no try leads to a mesh; `failed` then tells what each did.
MadeMesh first_mesh(Prepared& prepared, double finer = 1);
/// The same of a solid.
MadeMeshIn<3> first_solid_mesh(Prepared& prepared, double finer = 1);

}  // namespace dotsift
