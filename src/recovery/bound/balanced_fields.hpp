#pragma once
// Polynomial stresses and fluxes without sources, and the sides over which they act on each other.

#include <array>
#include <vector>

#include "base/vec.hpp"

namespace dotsift::balanced {

inline constexpr int most_degree = 3;
inline constexpr int most_on_side = most_degree + 1;  // of a side
inline constexpr int most_basis = 18;                 // balanced stresses of degree 3
using Components = std::array<double, 3>;             // xx, yy, xy of a stress, or x, y of a flux

/// Stress or flux of one kind of problem, per depth.
struct Kind {
    int motions;     ///< components of what the sides do: 2 of the displacement, 1 of the potential
    int components;  ///< of the field: 3 or 2
    int degree;      ///< of the field's polynomials

    [[nodiscard]] int side_dofs() const { return motions * (degree + 1); }
    [[nodiscard]] std::array<double, 2> traction(const Components& s, const Vec2& n) const {
        if (motions == 1) return {s[0] * n[0] + s[1] * n[1], 0};
        return {s[0] * n[0] + s[2] * n[1], s[2] * n[0] + s[1] * n[1]};
    }
    struct Fields {
        std::array<Components, most_basis> list{};
        std::size_t count = 0;
    };
    /// Fields without sources up to the degree, from the stress functions x^i y^j: Airy's, or the stream function.
    [[nodiscard]] Fields balanced(const Vec2& x) const;
};

/// A side that elements share: through three points, the middle one halfway on straight sides.
struct Side {
    std::array<Vec2, 3> p;  ///< start, end, middle
    /// Axes of its degrees of freedom at each of its nodes, and what is prescribed along them.
    std::array<std::array<Vec2, 2>, most_on_side> axes{};
    std::array<std::array<char, 2>, most_on_side> held{};
    std::array<std::array<double, 2>, most_on_side> value{};

    [[nodiscard]] Vec2 at(double t) const {
        return p[0] * ((1 - t) * (1 - 2 * t)) + p[1] * (t * (2 * t - 1)) + p[2] * (4 * t * (1 - t));
    }
    [[nodiscard]] Vec2 along(double t) const { return p[0] * (4 * t - 3) + p[1] * (4 * t - 1) + p[2] * (4 - 8 * t); }
};

/// Gauss points on [0, 1], which are the nodes of the sides' polynomials.
std::vector<double> side_nodes_at(int degree);
/// The polynomial that is 1 at one node and 0 at the others.
double lagrange(const std::vector<double>& nodes, std::size_t i, double t);

}  // namespace dotsift::balanced
