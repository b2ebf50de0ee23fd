#pragma once
// The same mesh with every element cut into four.

#include "mesh/mesh.hpp"

namespace dotsift {

/// Each triangle and quadrilateral becomes four of its kind, with the middles of its sides as new corners. For meshes
/// whose sides are straight: new nodes lie on the sides, not on the curve of the part. Nested meshes show orders of
/// convergence without the scatter of meshes that were made anew.
Mesh subdivide(const Mesh& mesh);

}  // namespace dotsift
