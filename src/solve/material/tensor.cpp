#include "solve/material/tensor.hpp"

#include <Eigen/Eigenvalues>
#include <cmath>

namespace dotsift {

template <int D>
double von_mises(const StressIn<D>& s) {
    const double a = s[0] - s[1], b = s[1] - s[3], c = s[3] - s[0];
    double shears = 3 * s[2] * s[2];
    if constexpr (D == 3) shears += 3 * (s[4] * s[4] + s[5] * s[5]);
    return std::sqrt(0.5 * (a * a + b * b + c * c) + shears);
}

template <int D>
std::array<double, static_cast<std::size_t>(D)> principal(const StressIn<D>& s) {
    if constexpr (D == 2) {
        const double mean = 0.5 * (s[0] + s[1]), radius = std::hypot(0.5 * (s[0] - s[1]), s[2]);
        return {mean + radius, mean - radius};
    } else {
        Eigen::Matrix3d m;
        m << s[0], s[2], s[5], s[2], s[1], s[4], s[5], s[4], s[3];
        // By iteration: the closed form loses half the digits where two are alike.
        const Eigen::Vector3d values =
            Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(m, Eigen::EigenvaluesOnly).eigenvalues();  // ascending
        return {values[2], values[1], values[0]};
    }
}

template <int D>
double max_shear(const StressIn<D>& s) {
    const auto p = principal(s);
    if constexpr (D == 2)
        return 0.5 * (std::max(p[0], s[3]) - std::min(p[1], s[3]));
    else
        return 0.5 * (p[0] - p[2]);
}

template <int D>
StressIn<D> turned(const StressIn<D>& t, double angle) {
    const double c = std::cos(angle), s = std::sin(angle);
    StressIn<D> out{{c * c * t[0] + s * s * t[1] + 2 * c * s * t[2], s * s * t[0] + c * c * t[1] - 2 * c * s * t[2],
                     c * s * (t[1] - t[0]) + (c * c - s * s) * t[2], t[3]}};
    if constexpr (D == 3) {
        out[4] = c * t[4] - s * t[5];
        out[5] = c * t[5] + s * t[4];
    }
    return out;
}

template double von_mises<2>(const Stress&);
template double von_mises<3>(const Stress3&);
template std::array<double, 2> principal<2>(const Stress&);
template std::array<double, 3> principal<3>(const Stress3&);
template double max_shear<2>(const Stress&);
template double max_shear<3>(const Stress3&);
template Stress turned<2>(const Stress&, double);
template Stress3 turned<3>(const Stress3&, double);

}  // namespace dotsift
