#pragma once
// Rules of integration over reference elements.

#include <span>

#include "mesh/elements/shape_functions.hpp"

namespace dotsift {

template <int D>
struct QuadraturePointIn {
    Vec<D> xi;
    double weight;  ///< weights of a rule sum to the reference element's area or volume
};
using QuadraturePoint = QuadraturePointIn<2>;

/// A rule on the reference triangle that integrates polynomials up to `degree` (1, 2, 4 or 6) exactly.
/// Strang & Fix 1973 (3 points); Dunavant 1985, Int. J. Numer. Meth. Eng. 21 (6 and 12 points).
std::span<const QuadraturePoint> triangle_rule(int degree);
/// The same for any kind, up to degree 6 (squares and cubes: 7). Tetrahedra: Keast 1986, Comput. Meth. Appl. Mech. Eng.
/// 55 (1, 4 and 24 points), Walkington 2000 (14 points, degree 5). Squares and cubes: the Gauss-Legendre product rule,
/// exact up to `degree` in each coordinate. Wedges: the product of both. Pyramids: that of the cube which they
/// collapse.
template <int D = 2>
std::span<const QuadraturePointIn<D>> quadrature(ElementKind kind, int degree);
/// The rule that integrates the stiffness of an element whose sides are straight (`straight`) or curved.
template <int D = 2>
std::span<const QuadraturePointIn<D>> stiffness_rule(ElementKind kind, bool straight);
/// The points where the derivatives of the solution are most accurate (Barlow 1976, Int. J. Numer. Meth. Eng. 10; for
/// triangles and tetrahedra the points of the rule of degree 2 (p - 1)).
template <int D = 2>
std::span<const QuadraturePointIn<D>> sampling_rule(ElementKind kind);

/// Gauss-Legendre rules on [0, 1]: that with five points, exact to degree 9, and the smallest one exact to a degree.
struct LinePoint {
    double t, weight;
};
std::span<const LinePoint> line_rule();
std::span<const LinePoint> line_rule(int degree);

/// A quadrature point with the shape functions there, which are the same for every element.
template <int D>
struct ShapePointIn {
    Vec<D> xi;
    double weight = 0;
    std::array<double, most_nodes<D>> n{};
    std::array<Vec<D>, most_nodes<D>> dn{};  ///< by the reference coordinates
};
using ShapePoint = ShapePointIn<2>;
template <int D>
ShapePointIn<D> shape_point(ElementKind kind, const Vec<D>& xi, double weight);
/// `rule` must be one of those above.
template <int D>
std::span<const ShapePointIn<D>> tabulated(ElementKind kind, std::span<const QuadraturePointIn<D>> rule);

}  // namespace dotsift
