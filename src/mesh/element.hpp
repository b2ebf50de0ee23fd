#pragma once
// Element kinds: shape functions, their derivatives, and quadrature. A new kind is one more row in each table.

#include <array>
#include <cstdint>
#include <span>

#include "base/vec.hpp"

namespace dotsift {

/// Node order: corners anticlockwise, then for quadratic kinds the nodes in the middle of the sides, the first one
/// between corners 0 and 1, then the one in the middle of the element. Reference coordinates: the unit triangle with
/// corners (0, 0), (1, 0), (0, 1), or the unit square from (0, 0) to (1, 1).
enum class ElementKind : std::uint8_t { triangle3, triangle6, quadrilateral4, quadrilateral9 };

inline constexpr int most_element_nodes = 9;
inline constexpr int most_element_corners = 4;

constexpr int corner_count(ElementKind kind) {
    return kind == ElementKind::triangle3 || kind == ElementKind::triangle6 ? 3 : 4;
}
/// Degree of the polynomials that the element contains completely.
constexpr int polynomial_degree(ElementKind kind) {
    return kind == ElementKind::triangle3 || kind == ElementKind::quadrilateral4 ? 1 : 2;
}
constexpr int node_count(ElementKind kind) {
    if (polynomial_degree(kind) == 1) return corner_count(kind);
    return corner_count(kind) == 3 ? 6 : 9;
}
/// The kind with this many corners and this polynomial degree (1 or 2).
constexpr ElementKind kind_of(int corners, int degree) {
    if (corners == 3) return degree == 1 ? ElementKind::triangle3 : ElementKind::triangle6;
    return degree == 1 ? ElementKind::quadrilateral4 : ElementKind::quadrilateral9;
}
/// Local nodes of a side: its two corners and the node between them, or -1.
constexpr std::array<int, 3> side_nodes(ElementKind kind, int side) {
    const int corners = corner_count(kind);
    return {side, (side + 1) % corners, polynomial_degree(kind) == 1 ? -1 : side + corners};
}
/// Nodes of a side: three, or two on linear elements.
constexpr std::size_t side_node_count(ElementKind kind) {
    return polynomial_degree(kind) == 1 ? 2 : 3;
}

/// Reference coordinates of a corner, and of the element's middle.
constexpr Vec2 reference_corner(ElementKind kind, int corner) {
    constexpr std::array<Vec2, 3> triangle{{{{0, 0}}, {{1, 0}}, {{0, 1}}}};
    constexpr std::array<Vec2, 4> square{{{{0, 0}}, {{1, 0}}, {{1, 1}}, {{0, 1}}}};
    const auto c = static_cast<std::size_t>(corner);
    return corner_count(kind) == 3 ? triangle[c] : square[c];
}
constexpr Vec2 reference_middle(ElementKind kind) {
    return corner_count(kind) == 3 ? Vec2{{1.0 / 3, 1.0 / 3}} : Vec2{{0.5, 0.5}};
}
/// The reference point at the share t of a side.
constexpr Vec2 reference_on_side(ElementKind kind, int side, double t) {
    const Vec2 a = reference_corner(kind, side), b = reference_corner(kind, (side + 1) % corner_count(kind));
    return {{a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t}};
}
/// How far a reference point lies outside its element; 0 or less inside.
double reference_outside(ElementKind kind, const Vec2& xi);

/// The reference element cut into triangles (one or two), for work that is done on triangles.
std::span<const std::array<Vec2, 3>> reference_triangles(ElementKind kind);

/// Values of the shape functions at a reference point.
void shape_values(ElementKind kind, const Vec2& xi, std::span<double> n);
/// Derivatives with respect to xi and eta.
void shape_derivatives(ElementKind kind, const Vec2& xi, std::span<Vec2> dn);

struct QuadraturePoint {
    Vec2 xi;
    double weight;  ///< weights of a rule sum to the reference area: 1/2 or 1
};
/// A rule on the reference triangle that integrates polynomials up to `degree` (1, 2, 4 or 6) exactly.
/// Strang & Fix 1973 (3 points); Dunavant 1985, Int. J. Numer. Meth. Eng. 21 (6 and 12 points).
std::span<const QuadraturePoint> triangle_rule(int degree);
/// The same for any kind: on squares the Gauss-Legendre product rule, exact up to `degree` (at most 7) in each
/// coordinate.
std::span<const QuadraturePoint> quadrature(ElementKind kind, int degree);
/// The rule that integrates the stiffness of an element whose sides are straight (`straight`) or curved.
std::span<const QuadraturePoint> stiffness_rule(ElementKind kind, bool straight);
/// The points where the derivatives of the solution are most accurate (Barlow 1976, Int. J. Numer. Meth. Eng. 10; for
/// triangles the points of the rule of degree 2 (p - 1)).
std::span<const QuadraturePoint> sampling_rule(ElementKind kind);

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

/// A quadrature point with the shape functions there, which are the same for every element.
struct ShapePoint {
    Vec2 xi;
    double weight = 0;
    std::array<double, most_element_nodes> n{};
    std::array<Vec2, most_element_nodes> dn{};  ///< by xi and eta
};
ShapePoint shape_point(ElementKind kind, const Vec2& xi, double weight);
/// `rule` must be one of those above.
std::span<const ShapePoint> tabulated(ElementKind kind, std::span<const QuadraturePoint> rule);
ElementPoint evaluate(ElementKind kind, std::span<const Vec2> nodes, const ShapePoint& at);

/// Middle nodes halfway between their corners (and the middle one between all four).
bool is_straight(ElementKind kind, std::span<const Vec2> nodes);

/// Reference coordinates of a point, by Newton's method from the centre; the result may lie outside the element.
/// `converged` is false if the element is too distorted there.
Vec2 reference_point(ElementKind kind, std::span<const Vec2> nodes, const Vec2& position, bool& converged);

/// A lower bound of the Jacobian determinant over the whole element, divided by its mean: the smallest Bernstein
/// coefficient (Johnen, Remacle & Geuzaine 2013, J. Comput. Phys. 233). Positive: the element is valid everywhere.
double jacobian_bound(ElementKind kind, std::span<const Vec2> nodes);

}  // namespace dotsift
