#pragma once
// Facets -> the faces of a solid: parted at sharp edges, and where one bends too far to be laid flat.

#include <map>

#include "part/facets/facet_mesh.hpp"

namespace dotsift {

/// Facets of one closed solid in pieces. A patch is what no sharp edge and no border of a group parts; pieces are parts
/// of patches. Cuts run along planes, or where the normal of the smooth surface has one value along a direction, and
/// split facets.
struct FacetPieces {
    FacetMesh mesh;
    std::vector<std::int32_t> patch, piece;  ///< of each facet
    std::int32_t patches = 0, pieces = 0;
    /// Of a patch at a point, of length 1.
    [[nodiscard]] const Vec3& normal(std::int32_t patch, std::int32_t point) const {
        return normals.at({patch, point});
    }
    std::map<std::pair<std::int32_t, std::int32_t>, Vec3> normals;
};

/// `feature_angle`: in radians; edges at which facets turn by more are sharp. Throws InputError where a piece cannot be
/// laid flat.
FacetPieces parted(FacetMesh mesh, double feature_angle);

}  // namespace dotsift
