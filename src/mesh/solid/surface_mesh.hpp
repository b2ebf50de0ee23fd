#pragma once
// Triangles on the faces of a solid, with the nodes that faces share on its edges.

#include <algorithm>
#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "part/solid/solid_part.hpp"
#include "sizes/sizing.hpp"

namespace dotsift {

/// Two points, whichever comes first.
inline std::uint64_t pair_of(std::int32_t a, std::int32_t b) {
    return static_cast<std::uint64_t>(static_cast<std::uint32_t>(std::min(a, b))) << 32 |
           static_cast<std::uint32_t>(std::max(a, b));
}

/// A piece of an edge of the part between two points.
struct EdgePiece {
    std::int32_t from = 0, to = 0;
    std::int32_t edge = -1;
    double t_from = 0, t_to = 1;  ///< parameters on its curve
};

struct SurfaceTriangle {
    std::array<std::int32_t, 3> v{};  ///< points, anticlockwise where the face's normal points to the reader
    std::int32_t face = 0;
};

struct SurfaceMesh {
    std::vector<Vec3> points;       ///< the part's vertices, then those on its edges, then those on its faces
    std::vector<EdgePiece> pieces;  ///< those of an edge follow each other
    std::vector<SurfaceTriangle> triangles;
};

/// What turned out too coarse, and the sizes that are wanted there.
struct CoarsePlaces {
    std::vector<SizeSourceIn<3>> finer;
    std::string reason, where;  ///< of the first, and the edge or face there
    Vec3 position;
    /// Half the length of what runs from a to b is wanted there.
    void add(const Vec3& a, const Vec3& b, const char* why, const std::string& name);
};

/// Edges are divided once, in space, as the sizes ask or as is given. Each face is meshed on its chart by the front of
/// the plane, with the sizes of space over the chart's scale, and put back onto its surface. Where boundaries are
/// nearer to each other than their pieces are long, or a triangle turns away from its surface, that is told in
/// `coarse`, and the triangles are not to be used. Throws MeshError above `most` triangles. The same for any number of
/// threads.
SurfaceMesh mesh_surface(const SolidPart& part, const SizingIn<3>& sizing, std::size_t most, CoarsePlaces& coarse);

}  // namespace dotsift
