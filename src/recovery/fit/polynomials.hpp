#pragma once
// Polynomials of two coordinates about a place.

#include <algorithm>
#include <array>

#include "base/vec.hpp"

namespace dotsift {

/// Monomials of two coordinates up to a degree (2 to 4), with their first derivatives.
struct Monomials {
    static constexpr int highest_degree = 4;
    /// How many there are.
    static constexpr int terms(int degree) { return (degree + 1) * (degree + 2) / 2; }
    static constexpr int most = (highest_degree + 1) * (highest_degree + 2) / 2;
    int count = 0;
    std::array<double, most> value{}, x{}, y{};
    /// Of (p - centre) / scale; derivatives are those by p.
    Monomials(int degree, const Vec2& p, const Vec2& centre, double scale);
};

/// The values alone, of as many as are asked for.
template <int terms>
std::array<double, terms> monomial_values(const Vec2& p, const Vec2& centre, double scale) {
    const double a = (p[0] - centre[0]) / scale, b = (p[1] - centre[1]) / scale;
    std::array<double, terms> v{1};
    if constexpr (terms > Monomials::terms(0)) v[1] = a, v[2] = b;
    if constexpr (terms > Monomials::terms(1)) v[3] = a * a, v[4] = a * b, v[5] = b * b;
    if constexpr (terms > Monomials::terms(2)) v[6] = a * v[3], v[7] = b * v[3], v[8] = a * v[5], v[9] = b * v[5];
    if constexpr (terms > Monomials::terms(3))
        v[10] = v[3] * v[3], v[11] = v[3] * v[4], v[12] = v[3] * v[5], v[13] = v[4] * v[5], v[14] = v[5] * v[5];
    return v;
}

/// Calls act(k, by_x, by_y, m, n) for each monomial k, the m-th power of one coordinate times the n-th of the other:
/// its derivatives are m times monomial by_x and n times monomial by_y.
template <class Act>
void each_derivative(int degree, Act act) {
    for (int d = 0; d <= degree; ++d)
        for (int n = 0; n <= d; ++n) {
            const int below = Monomials::terms(d - 2) + n;  // of degree d - 1
            act(static_cast<std::size_t>(Monomials::terms(d - 1) + n), static_cast<std::size_t>(std::max(below, 0)),
                static_cast<std::size_t>(std::max(below - 1, 0)), d - n, n);
        }
}

/// Calls act(which, k, from, factor) for the second derivatives of the monomials, which: 0 by x twice, 1 by x and y, 2
/// by y twice. That of monomial k is `factor` times monomial `from`; those that are zero are left out.
template <class Act>
void each_second_derivative(int degree, double scale, Act act) {
    const double s2 = 1 / (scale * scale);
    for (int d = 2; d <= degree; ++d)
        for (int n = 0; n <= d; ++n) {
            const int k = Monomials::terms(d - 1) + n, below = Monomials::terms(d - 3), m = d - n;
            if (m > 1) act(0, k, below + n, m * (m - 1) * s2);
            if (m > 0 && n > 0) act(1, k, below + n - 1, m * n * s2);
            if (n > 1) act(2, k, below + n - 2, n * (n - 1) * s2);
        }
}

/// Fields as polynomials about a node.
template <std::size_t fields>
struct PatchPolynomial {
    Vec2 centre;
    double scale = 1;
    int terms = 0;
    std::array<std::array<double, fields>, Monomials::most> factors{};  ///< of monomials of (p - centre) / scale
    [[nodiscard]] std::array<double, fields> at(const Vec2& p) const;
};

}  // namespace dotsift
