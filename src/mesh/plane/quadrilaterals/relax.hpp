#pragma once
// Better places for the points of a mixed mesh.

#include "mesh/plane/corner_mesh.hpp"

namespace dotsift {

/// Moves the points from `first_movable` on, each towards the mean of the places at which its elements would be squares
/// and equilateral triangles (as many `rounds`), then for the worst elements along a search for the place with the best
/// worst scaled Jacobian round it. No step makes the worst element round a point worse, so none is turned inside out.
void relax(CornerMesh& mesh, std::size_t first_movable, int rounds);

/// Scaled Jacobian of an element.
double scaled_jacobian_of(const CornerMesh& mesh, const CornerMesh::Element& element);

}  // namespace dotsift
