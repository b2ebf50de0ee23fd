#pragma once
// Quadrilaterals in one face of the part, from the divided boundary round it.

#include "mesh/plane/corner_mesh.hpp"
#include "mesh/plane/outline.hpp"

namespace dotsift {

/// Mostly quadrilaterals: points are placed on grids that run along the boundary and grow inwards from it (a frontal
/// method in the directions of a cross field, as Remacle et al. 2013, Int. J. Numer. Meth. Eng. 94), triangulated, and
/// joined in pairs. Quadrilaterals that stay below `least_quadrilateral` are two triangles again. Throws MeshError
/// above `most_elements`, and adds to `coarse` what is too coarse to be meshed.
CornerMesh mostly_quadrilaterals(const Division& division, const SizeField& sizes, std::size_t most_elements,
                                 Coarse& coarse);

/// Quadrilaterals alone: `mostly_quadrilaterals` of twice the size, each element cut at the middles of its sides. The
/// segments of the division must come in pairs that follow each other on the same edge (see even_divisions); the points
/// between them are used again.
CornerMesh only_quadrilaterals(const Division& division, const SizeField& sizes, std::size_t most_elements,
                               Coarse& coarse);

/// The worst scaled Jacobian that mostly_quadrilaterals leaves.
inline constexpr double least_quadrilateral = 0.35;

}  // namespace dotsift
