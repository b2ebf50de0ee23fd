#pragma once
// Rows and columns of quadrilaterals on faces with four sides.

#include <array>
#include <vector>

#include "mesh/plane/corner_mesh.hpp"
#include "mesh/plane/division.hpp"
#include "part/part.hpp"

namespace dotsift {

/// The four sides of a face, anticlockwise, each a chain of edges.
using GridSides = std::array<std::vector<EdgeUse>, 4>;

/// Cuts the loop round a face at the vertices nearest to `corners`, or where none are given at the four corners whose
/// inner angles are sharpest. Throws InputError (naming the region) if the face has holes or inner lines, or if no four
/// different vertices are found.
GridSides grid_sides(const Part& part, int face, const std::vector<Vec2>& corners);

/// Raises the numbers of pieces of edges until opposite sides of every grid have as many. Edges with `fixed` keep
/// theirs. Throws InputError if that cannot be.
void match_opposite_sides(const Part& part, const std::vector<GridSides>& grids, const std::vector<int>& step,
                          std::vector<int>& counts);

/// The grid between four divided sides, by blending its sides (Gordon & Hall 1973, Int. J. Numer. Meth. Eng. 7).
/// Points are numbered as in the division, further ones from `division.points.size()` on. Throws MeshError with the
/// place if elements fold over.
CornerMesh grid_between(const Part& part, const GridSides& sides, const Division& division, int face);

}  // namespace dotsift
