#pragma once
// The triangles of a solid's faces as walls between tetrahedra.

#include "mesh/solid/surface_mesh.hpp"
#include "mesh/solid/tetrahedralisation.hpp"

namespace dotsift {

/// Finds every triangle of the surface among the sides of tetrahedra (`vertex` is that of each point), and lets each
/// tetrahedron know its body (-1: outside) and its walls. Where four points lie on one circle, or nearly so, the
/// surface takes the diagonal that the tetrahedra have. What is missing even so is told in `coarse`: the surface has to
/// be finer there. With `recover` it is brought into the tetrahedra first, as far as that goes: beside sharp edges
/// finer triangles are missing again, but elsewhere they give better elements.
void set_boundary(const SolidPart& part, SurfaceMesh& surface, const std::vector<std::int32_t>& vertex,
                  Tetrahedralisation& mesh, bool recover, CoarsePlaces& coarse);

}  // namespace dotsift
