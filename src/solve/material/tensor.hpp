#pragma once
// Stress and strain as types of their own, and the sums over their components that equations are made of: the same in
// the plane and in space.

#include <algorithm>
#include <array>
#include <cstddef>
#include <span>

#include "base/vec.hpp"

namespace dotsift {

/// xx, yy, xy, zz, and in space yz, zx: what a plane has comes first. In an axisymmetric body x is the radius, y the
/// axis, and z runs round.
template <int D>
inline constexpr std::size_t tensor_components = D == 2 ? 4 : 6;

template <int D>
struct StressIn : std::array<double, tensor_components<D>> {};
/// The shears are the engineering ones (gamma), so that the sum over stress times strain is twice the energy density.
template <int D>
struct StrainIn : std::array<double, tensor_components<D>> {};

using Stress = StressIn<2>;
using Strain = StrainIn<2>;
using Stress3 = StressIn<3>;
using Strain3 = StrainIn<3>;

template <int D>
using TensorMatrix = std::array<std::array<double, tensor_components<D>>, tensor_components<D>>;
template <int D>
using SquareMatrix = std::array<std::array<double, D>, D>;

/// Stresses, strains or vectors less each other, times a factor, and the sum over the products of their components.
template <class Value>
Value difference(Value a, const Value& b) {
    for (std::size_t c = 0; c < a.size(); ++c) a[c] -= b[c];
    return a;
}
template <class Value>
Value scaled(Value a, double factor) {
    for (std::size_t c = 0; c < a.size(); ++c) a[c] *= factor;
    return a;
}
template <class A, class B>
double contraction(const A& a, const B& b) {
    double sum = a[0] * b[0];
    for (std::size_t c = 1; c < a.size(); ++c) sum += a[c] * b[c];
    return sum;
}

/// The strain of a displacement u times a function with this gradient, added up.
template <int D>
void add_strain(const Vec<D>& gradient, const Vec<D>& u, StrainIn<D>& strain) {
    strain[0] += gradient[0] * u[0];
    strain[1] += gradient[1] * u[1];
    strain[2] += gradient[1] * u[0] + gradient[0] * u[1];
    if constexpr (D == 3) {
        strain[3] += gradient[2] * u[2];
        strain[4] += gradient[2] * u[1] + gradient[1] * u[2];
        strain[5] += gradient[0] * u[2] + gradient[2] * u[0];
    }
}

/// Of displacement gradients; in the plane without the strain zz.
template <int D>
StrainIn<D> strain_of(const std::array<Vec<D>, static_cast<std::size_t>(D)>& g) {
    StrainIn<D> strain{{g[0][0], g[1][1], g[0][1] + g[1][0]}};
    if constexpr (D == 3) {
        strain[3] = g[2][2];
        strain[4] = g[1][2] + g[2][1];
        strain[5] = g[2][0] + g[0][2];
    }
    return strain;
}

/// The force per area on a plane with this normal. With the gradient of a shape function in its place, summed over the
/// nodes, it is the divergence of a stress that is interpolated.
template <int D>
Vec<D> traction(const StressIn<D>& s, const Vec<D>& n) {
    if constexpr (D == 2)
        return {{s[0] * n[0] + s[2] * n[1], s[2] * n[0] + s[1] * n[1]}};
    else
        return {{s[0] * n[0] + s[2] * n[1] + s[5] * n[2], s[2] * n[0] + s[1] * n[1] + s[4] * n[2],
                 s[5] * n[0] + s[4] * n[1] + s[3] * n[2]}};
}

/// How much of each stress component goes into the traction along t: the derivatives of t . traction.
template <int D>
std::array<double, tensor_components<D>> shares_of_traction(const Vec<D>& t, const Vec<D>& n) {
    std::array<double, tensor_components<D>> share{t[0] * n[0], t[1] * n[1], t[0] * n[1] + t[1] * n[0]};
    if constexpr (D == 3) {
        share[3] = t[2] * n[2];
        share[4] = t[1] * n[2] + t[2] * n[1];
        share[5] = t[2] * n[0] + t[0] * n[2];
    }
    return share;
}

template <int D>
double von_mises(const StressIn<D>& stress);
/// Principal stresses, the largest first: in the plane the two in it, in space all three.
template <int D>
std::array<double, static_cast<std::size_t>(D)> principal(const StressIn<D>& stress);
/// Half the difference of the largest and the smallest of all three principal stresses.
template <int D>
double max_shear(const StressIn<D>& stress);
/// Components along other axes: the first one turned from x about z by the angle (radians).
template <int D>
StressIn<D> turned(const StressIn<D>& stress, double angle);

}  // namespace dotsift
