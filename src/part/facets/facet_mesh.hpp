#pragma once
// Triangles in space that are to bound solids, as files of surfaces have them.

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

struct Facet {
    std::array<std::int32_t, 3> v{};  ///< points, anticlockwise as seen from outside
    std::int32_t group = 0;           ///< of the file
};

struct FacetMesh {
    std::vector<Vec3> points;
    std::vector<Facet> facets;
    std::vector<std::string> groups;  ///< their names, several joined by "+"; may be empty

    [[nodiscard]] const Vec3& corner(const Facet& f, std::size_t k) const {
        return points[static_cast<std::size_t>(f.v[k])];
    }
    /// The normal, as long as twice the area.
    [[nodiscard]] Vec3 twice_area(const Facet& f) const {
        return cross(corner(f, 1) - corner(f, 0), corner(f, 2) - corner(f, 0));
    }
};

/// Points that are one become one, facets without area go, all turn their outside outwards, those of cavities into the
/// cavity. What was changed is told in `notes`. Each item is one solid with its cavities, the largest first.
///
/// Throws InputError with a place: facets that do not close, three at one edge, facets that cross each other.
std::vector<FacetMesh> closed_solids(FacetMesh mesh, std::vector<std::string>& notes);

}  // namespace dotsift
