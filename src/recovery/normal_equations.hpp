#pragma once
// Least squares of few unknowns, as they are solved once for every node of a mesh: sizes known to the compiler, plain
// loops over rows that it can make the most of.

#include <algorithm>
#include <array>
#include <cmath>

namespace dotsift {

/// The normal equations A x = B of `unknowns` coefficients for `sides` right sides at once; of A the upper triangle.
template <int unknowns, int sides>
class NormalEquations {
  public:
    /// An equation: coefficients, then the wanted value of each right side.
    using Row = std::array<double, unknowns + sides>;
    using Answers = std::array<std::array<double, unknowns>, sides>;

    double& at(int row, int column) { return a_[row][column]; }
    double& right(int row, int side) { return a_[row][unknowns + side]; }

    /// Adds an equation; its square counts by `weight`.
    void add(const Row& row, double weight) {
        const double root = std::sqrt(weight);
        for (int i = 0; i < unknowns + sides; ++i) pending_[count_][i] = root * row[static_cast<std::size_t>(i)];
        if (++count_ == together) square();
    }

    /// Coefficients that nothing determines are kept small: `ridge` is a share of the largest square. Those that
    /// rounding leaves without any are zero.
    [[nodiscard]] Answers solve(double ridge) {
        for (; count_ > 0; square())
            for (; count_ < together; ++count_) std::fill_n(pending_[count_], width, 0.0);
        double largest = 0;
        for (int i = 0; i < unknowns; ++i) largest = std::max(largest, a_[i][i]);
        for (int i = 0; i < unknowns; ++i) a_[i][i] += ridge * largest + (a_[i][i] == 0 ? 1 : 0);
        std::array<double, unknowns> inverse{};
        for (int k = 0; k < unknowns; ++k) {
            if (!(a_[k][k] > 0)) continue;
            inverse[static_cast<std::size_t>(k)] = 1 / a_[k][k];
            for (int i = k + 1; i < unknowns; ++i) {
                const double factor = a_[k][i] * inverse[static_cast<std::size_t>(k)];
                for (int j = i & ~1; j < width; ++j) a_[i][j] -= factor * a_[k][j];
            }
        }
        Answers x;
        for (int i = unknowns - 1; i >= 0; --i) {
            std::array<double, sides> own;
            for (std::size_t s = 0; s < sides; ++s) {
                own[s] = a_[i][unknowns + s] * inverse[static_cast<std::size_t>(i)];
                x[s][static_cast<std::size_t>(i)] = own[s];
            }
            for (int j = 0; j < i; ++j)
                for (std::size_t s = 0; s < sides; ++s) a_[j][unknowns + s] -= a_[j][i] * own[s];
        }
        return x;
    }

  private:
    static constexpr int width = (unknowns + sides + 1) / 2 * 2;  // rows begin aligned
    static constexpr int together = 4;

    /// Several equations at once, which saves most of the way to and from memory.
    void square() {
        for (int i = 0; i < unknowns; ++i) {
            const double p = pending_[0][i], q = pending_[1][i], r = pending_[2][i], s = pending_[3][i];
            for (int j = i & ~1; j < width; ++j)
                a_[i][j] += p * pending_[0][j] + q * pending_[1][j] + r * pending_[2][j] + s * pending_[3][j];
        }
        count_ = 0;
    }

    alignas(16) double a_[unknowns][width]{};
    alignas(16) double pending_[together][width]{};
    int count_ = 0;
};

}  // namespace dotsift
