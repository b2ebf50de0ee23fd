#pragma once
// Which triangles are joined to quadrilaterals.

#include <vector>

#include "mesh/plane/corner_mesh.hpp"

namespace dotsift {

/// Joins triangles of a corner mesh in pairs. The best shapes are joined first; then, along alternating paths, pairs
/// are exchanged so that triangles left over find a partner (Edmonds 1965, without blossoms), as long as every
/// quadrilateral's scaled Jacobian stays above `least`. Sides on segments are never removed.
void pair_triangles(CornerMesh& mesh, double least);

}  // namespace dotsift
