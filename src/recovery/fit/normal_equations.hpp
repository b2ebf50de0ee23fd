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
        for (int k = 0; k < unknowns; k += together) {
            const int end = std::min(k + together, unknowns);
            for (int p = k; p < end; ++p) {
                for (int q = k; q < p; ++q) {
                    const double factor = a_[q][p] * inverse[static_cast<std::size_t>(q)];
                    for (int j = p & ~1; j < width; ++j) a_[p][j] -= factor * a_[q][j];
                }
                inverse[static_cast<std::size_t>(p)] = a_[p][p] > 0 ? 1 / a_[p][p] : 0;
            }
            if (k + together >= unknowns) break;
            for (int i = end; i < unknowns; ++i) {
                double f[together];
                for (int p = 0; p < together; ++p) f[p] = -a_[k + p][i] * inverse[static_cast<std::size_t>(k + p)];
                add_rows(f, a_ + k, a_[i], i);
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
    static constexpr int together = 4;  // rows, which saves most of the way to and from memory

    /// To a row that is none of these, from a column on.
    static void add_rows(const double (&factors)[together], const double (*rows)[width], double* to, int from) {
        // The compiler need not look whether they overlap.
        double* __restrict sum = to;
        const double* __restrict a = rows[0], * __restrict b = rows[1], * __restrict c = rows[2], * __restrict d = rows[3];
        const double fa = factors[0], fb = factors[1], fc = factors[2], fd = factors[3];
        for (int j = from & ~1; j < width; ++j) sum[j] += (fa * a[j] + fb * b[j]) + (fc * c[j] + fd * d[j]);
    }
    /// Several equations at once.
    void square() {
        for (int i = 0; i < unknowns; ++i) {
            double f[together];
            for (int p = 0; p < together; ++p) f[p] = pending_[p][i];
            add_rows(f, pending_, a_[i], i);
        }
        count_ = 0;
    }

    alignas(16) double a_[unknowns][width]{};
    alignas(16) double pending_[together][width]{};
    int count_ = 0;
};

}  // namespace dotsift
