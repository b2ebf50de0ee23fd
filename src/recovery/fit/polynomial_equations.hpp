#pragma once
// Equations that are asked for at many places, whose coefficients are polynomials of the place.

#include <array>
#include <cmath>

namespace dotsift {

/// At a place with the monomials m_k, an equation is the sum of m_k times its k-th part; `parts` is how many monomials
/// there are. Any number of places makes no more than that many equations with the same sum of squares, but for a
/// constant (the Cholesky factor of the sum of m m^T, times the parts). `count` equations are asked for at each place.
template <int unknowns, int parts, int count>
class PolynomialEquations {
  public:
    using Equation = std::array<double, unknowns>;

    Equation& part(int equation, int monomial) { return parts_[index(equation)][index(monomial)]; }

    /// Coefficients at a place.
    [[nodiscard]] Equation at(int equation, const std::array<double, parts>& monomials) const {
        Equation sum{};
        for (std::size_t k = 0; k < parts; ++k) add(sum, monomials[k], parts_[index(equation)][k]);
        return sum;
    }

    /// Asks for the equations at a place; their squares count by `weight`.
    void ask(const std::array<double, parts>& monomials, double weight, const std::array<double, count>& wanted) {
        for (std::size_t k = 0; k < parts; ++k) {
            const double w = weight * monomials[k];
            for (std::size_t l = 0; l <= k; ++l) gram_[k][l] += w * monomials[l];
            for (std::size_t c = 0; c < count; ++c) right_[c][k] += w * wanted[c];
        }
    }

    /// Calls act(equation, wanted) for those that stand for all that was asked for.
    template <class Act>
    void each(Act act) const {
        auto factor = gram_;
        std::array<std::array<double, parts>, count> wanted = right_;
        for (std::size_t k = 0; k < parts; ++k) {
            // Places on a line, or too few, leave monomials that say nothing of their own.
            if (!(factor[k][k] > rounding_share * gram_[k][k])) continue;
            const double root = std::sqrt(factor[k][k]);
            for (std::size_t i = k; i < parts; ++i) factor[i][k] /= root;
            for (auto& w : wanted) w[k] /= root;
            for (std::size_t i = k + 1; i < parts; ++i) {
                for (std::size_t j = k + 1; j <= i; ++j) factor[i][j] -= factor[i][k] * factor[j][k];
                for (auto& w : wanted) w[i] -= factor[i][k] * w[k];
            }
            for (std::size_t c = 0; c < count; ++c) {
                Equation sum{};
                for (std::size_t i = k; i < parts; ++i) add(sum, factor[i][k], parts_[c][i]);
                act(sum, wanted[c][k]);
            }
        }
    }

  private:
    static constexpr double rounding_share = 1e-13;  // of what a monomial's square was before
    static constexpr std::size_t index(int k) { return static_cast<std::size_t>(k); }
    static void add(Equation& sum, double factor, const Equation& part) {
        for (std::size_t u = 0; u < unknowns; ++u) sum[u] += factor * part[u];
    }

    std::array<std::array<Equation, parts>, count> parts_{};
    std::array<std::array<double, parts>, parts> gram_{};  ///< lower triangle
    std::array<std::array<double, parts>, count> right_{};
};

}  // namespace dotsift
