#pragma once
// What gradients of shape functions bring to the matrices of elements, at one point: the same in the plane and in
// space.

#include <array>
#include <span>

#include "base/vec.hpp"
#include "solve/system/assembly.hpp"

namespace dotsift {

template <int D>
using SquareMatrix = std::array<std::array<double, D>, D>;

/// Adds weight * gradient . conductivity . gradient.
template <std::size_t D>
void add_conduction(std::span<const Vec<static_cast<int>(D)>> dn, const std::array<std::array<double, D>, D>& c,
                    double weight, ElementMatrix& k) {
    for (std::size_t j = 0; j < dn.size(); ++j) {
        Vec<static_cast<int>(D)> flux;
        for (std::size_t a = 0; a < D; ++a) {
            double s = c[a][0] * dn[j][0];
            for (std::size_t b = 1; b < D; ++b) s += c[a][b] * dn[j][b];
            flux[a] = weight * s;
        }
        for (std::size_t i = j; i < dn.size(); ++i) {
            double s = dn[i][0] * flux[0];
            for (std::size_t a = 1; a < D; ++a) s += dn[i][a] * flux[a];
            k(i, j) += s;
        }
    }
}

}  // namespace dotsift
