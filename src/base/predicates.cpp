#include "base/predicates.hpp"

#include <algorithm>
#include <boost/multiprecision/cpp_int.hpp>
#include <cfloat>
#include <cmath>

namespace dotsift {

namespace {

using Integer = boost::multiprecision::cpp_int;

/// Doubles as integers over one common power of two, so that sums and products are exact.
template <std::size_t N>
std::array<Integer, N> to_integers(const std::array<double, N>& values) {
    std::array<Integer, N> mantissa;
    std::array<int, N> exponent{};
    int lowest = INT_MAX;
    for (std::size_t i = 0; i < N; ++i) {
        const double m = std::frexp(values[i], &exponent[i]);
        mantissa[i] = static_cast<long long>(std::ldexp(m, DBL_MANT_DIG));
        if (values[i] != 0) lowest = std::min(lowest, exponent[i]);
    }
    for (std::size_t i = 0; i < N; ++i)
        if (values[i] != 0) mantissa[i] <<= static_cast<unsigned>(exponent[i] - lowest);
    return mantissa;
}

double sign_of(const Integer& value) {
    return value > 0 ? 1.0 : value < 0 ? -1.0 : 0.0;
}

}  // namespace

namespace predicates {

double exact_orientation(const Vec2& a, const Vec2& b, const Vec2& c) {
    const auto v = to_integers<6>({a[0], a[1], b[0], b[1], c[0], c[1]});
    const Integer value = (v[0] - v[4]) * (v[3] - v[5]) - (v[1] - v[5]) * (v[2] - v[4]);
    return sign_of(value);
}

double exact_in_circle(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    const auto v = to_integers<8>({a[0], a[1], b[0], b[1], c[0], c[1], d[0], d[1]});
    const Integer ax = v[0] - v[6], ay = v[1] - v[7], bx = v[2] - v[6], by = v[3] - v[7], cx = v[4] - v[6],
                  cy = v[5] - v[7];
    const Integer value = (ax * ax + ay * ay) * (bx * cy - by * cx) + (bx * bx + by * by) * (cx * ay - cy * ax) +
                          (cx * cx + cy * cy) * (ax * by - ay * bx);
    return sign_of(value);
}

}  // namespace predicates

}  // namespace dotsift
