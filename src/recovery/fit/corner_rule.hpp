#pragma once
// Quadrature over elements that touch a singular point.

#include <vector>

#include "mesh/elements/element.hpp"

namespace dotsift {

/// A corner of an element, from which the stress rises as r^(exponent - 1).
struct SingularApex {
    Vec2 xi;
    double exponent;
};

/// The points of an element, ever closer to the corner in the triangles that have it: there a rule for the square of
/// the stress, as it rises, and for smooth fields. Exact up to a degree (see triangle_rule) in the others.
std::vector<ShapePoint> points_towards(ElementKind kind, const SingularApex& corner, int degree);

}  // namespace dotsift
