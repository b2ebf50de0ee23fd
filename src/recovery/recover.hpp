#pragma once
// Displacements -> a continuous stress field that is more accurate than the elements' own.

#include <vector>

#include "mesh/mesh.hpp"
#include "solve/material.hpp"

namespace dotsift {

/// Stress (xx, yy, xy) at every slot (see Mesh): superconvergent patch recovery (Zienkiewicz & Zhu 1992, Int. J. Numer.
/// Meth. Eng. 33, part 1). A quadratic is fitted to the elements' stresses at their sampling points over the patch
/// round each corner node, which grows by a ring of elements where it has few, as on the boundary. Middle nodes take
/// the mean of the quadratics of the corners beside them. Patches do not reach across regions: stress may jump there.
std::vector<Plane3> recover_stress(const Mesh& mesh, const std::vector<Vec2>& displacement, const RegionLaws& laws);

/// The recovered field inside an element: interpolated from the slots.
Plane3 interpolate(const Mesh& mesh, const std::vector<Plane3>& slots, std::size_t element, const ElementPoint& point);

}  // namespace dotsift
