#pragma once
// Element kinds: shape functions, their derivatives, and quadrature. A new kind is one more row in each table.

#include <array>
#include <cstdint>
#include <span>

#include "base/vec.hpp"

namespace dotsift {

/// Node order: corners anticlockwise, then mid-side nodes, the first one between corners 0 and 1.
enum class ElementKind : std::uint8_t { triangle6 };

inline constexpr int most_element_nodes = 6;

constexpr int node_count(ElementKind) {
    return 6;
}
constexpr int corner_count(ElementKind) {
    return 3;
}
/// Degree of the polynomials that the element contains completely.
constexpr int polynomial_degree(ElementKind) {
    return 2;
}
/// Local nodes of a side: its two corners and the node between them.
constexpr std::array<int, 3> side_nodes(ElementKind, int side) {
    return {side, (side + 1) % 3, side + 3};
}

/// Values of the shape functions at a reference point (xi, eta) of the unit triangle.
void shape_values(ElementKind kind, const Vec2& xi, std::span<double> n);
/// Derivatives with respect to xi and eta.
void shape_derivatives(ElementKind kind, const Vec2& xi, std::span<Vec2> dn);

struct QuadraturePoint {
    Vec2 xi;
    double weight;  ///< weights of a rule sum to the reference area 1/2
};
/// A rule on the reference triangle that integrates polynomials up to `degree` (2, 4 or 6) exactly.
/// Strang & Fix 1973 (3 points); Dunavant 1985, Int. J. Numer. Meth. Eng. 21 (6 and 12 points).
std::span<const QuadraturePoint> triangle_rule(int degree);

/// Gauss-Legendre rule with five points on [0, 1]; exact to degree 9.
struct LinePoint {
    double t, weight;
};
std::span<const LinePoint> line_rule();

/// Everything at one reference point of one element.
struct ElementPoint {
    std::array<double, most_element_nodes> n{};  ///< shape values
    std::array<Vec2, most_element_nodes> dn{};   ///< derivatives by x and y
    Vec2 position;
    double jacobian = 0;  ///< determinant
};
/// `nodes` are the element's node positions.
ElementPoint evaluate(ElementKind kind, std::span<const Vec2> nodes, const Vec2& xi);

/// Reference coordinates of a point, by Newton's method from the centre; the result may lie outside the element.
/// `converged` is false if the element is too distorted there.
Vec2 reference_point(ElementKind kind, std::span<const Vec2> nodes, const Vec2& position, bool& converged);

/// A lower bound of the Jacobian determinant over the whole element, divided by its mean: the smallest Bernstein
/// coefficient (Johnen, Remacle & Geuzaine 2013, J. Comput. Phys. 233). Positive: the element is valid everywhere.
double jacobian_bound(ElementKind kind, std::span<const Vec2> nodes);

}  // namespace dotsift
