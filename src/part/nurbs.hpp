#pragma once
// Rational B-splines in the plane and in space, evaluated in own code.

#include <array>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// Clamped or unclamped; parameters from knots[degree] to knots[poles.size()].
template <int D>
struct NurbsIn {
    static constexpr int most_degree = 15;
    int degree = 3;
    std::vector<double> knots;    ///< ascending; poles.size() + degree + 1 of them
    std::vector<Vec<D>> poles;    ///< control points
    std::vector<double> weights;  ///< one a pole, > 0; empty: all one

    [[nodiscard]] double low() const { return knots[static_cast<std::size_t>(degree)]; }
    [[nodiscard]] double high() const { return knots[poles.size()]; }
    /// Point, first and second derivative (de Boor 1972, J. Approx. Theory 6; quotient rule for weights).
    [[nodiscard]] std::array<Vec<D>, 3> at(double u) const;
    /// The same curve from one parameter to another, clamped, by inserting knots (Boehm 1980, Comput.-Aided Des. 12).
    [[nodiscard]] NurbsIn restricted(double from, double to) const;
    /// What is wrong with the data; empty if it can be evaluated.
    [[nodiscard]] const char* fault() const;
};
using Nurbs = NurbsIn<2>;

/// The cubic spline through points, twice continuously differentiable, with chord lengths as parameters. Open curves
/// have no curvature at their ends; a curve whose last point equals its first is closed smoothly. Needs at least two
/// points (three for a closed curve), no two in a row the same.
template <int D>
NurbsIn<D> spline_through(const std::vector<Vec<D>>& points);

}  // namespace dotsift
