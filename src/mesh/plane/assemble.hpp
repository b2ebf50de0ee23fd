#pragma once
// Corner mesh -> mesh: nodes on sides, an order that keeps neighbours close in memory, and the part's names.

#include "mesh/mesh.hpp"
#include "mesh/plane/corner_mesh.hpp"
#include "mesh/plane/division.hpp"
#include "part/part.hpp"

namespace dotsift {

/// Elements of polynomial degree 1 or 2. Middle nodes of sides on the part's edges lie on the true curve. Elements are
/// ordered along a Hilbert curve, nodes as the elements first use them; points that no element uses are left out.
Mesh assemble(const Part& part, const Division& division, CornerMesh corners, int degree);

}  // namespace dotsift
