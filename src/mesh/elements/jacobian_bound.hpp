#pragma once
// Whether an element is valid everywhere, not only at some points.

#include <span>

#include "mesh/elements/element.hpp"

namespace dotsift {

/// A lower bound of the Jacobian determinant over the whole element, divided by its mean: the smallest Bernstein
/// coefficient (Johnen, Remacle & Geuzaine 2013, J. Comput. Phys. 233). Positive: the element is valid everywhere. Of
/// pyramids it is the determinant as a polynomial in the coordinates of the cube that they collapse.
double jacobian_bound(ElementKind kind, std::span<const Vec2> nodes);
double jacobian_bound(ElementKind kind, std::span<const Vec3> nodes);

}  // namespace dotsift
