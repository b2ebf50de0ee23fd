#include "base/predicates.hpp"

#include <algorithm>
#include <boost/multiprecision/cpp_int.hpp>
#include <cfloat>
#include <cmath>

namespace dotsift {

namespace {

using Integer = boost::multiprecision::cpp_int;

constexpr double unit_roundoff = DBL_EPSILON / 2;
constexpr double orientation_bound = (3.0 + 16.0 * unit_roundoff) * unit_roundoff;
constexpr double in_circle_bound = (10.0 + 96.0 * unit_roundoff) * unit_roundoff;

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

}  // namespace

double orientation(const Vec2& a, const Vec2& b, const Vec2& c) {
    const double left = (a[0] - c[0]) * (b[1] - c[1]);
    const double right = (a[1] - c[1]) * (b[0] - c[0]);
    const double value = left - right;
    if (std::fabs(value) > orientation_bound * (std::fabs(left) + std::fabs(right))) return value;
    return exact_orientation(a, b, c);
}

double in_circle(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    const double ax = a[0] - d[0], ay = a[1] - d[1], bx = b[0] - d[0], by = b[1] - d[1], cx = c[0] - d[0],
                 cy = c[1] - d[1];
    const double bxcy = bx * cy, cxby = cx * by, cxay = cx * ay, axcy = ax * cy, axby = ax * by, bxay = bx * ay;
    const double a2 = ax * ax + ay * ay, b2 = bx * bx + by * by, c2 = cx * cx + cy * cy;
    const double value = a2 * (bxcy - cxby) + b2 * (cxay - axcy) + c2 * (axby - bxay);
    const double permanent = (std::fabs(bxcy) + std::fabs(cxby)) * a2 + (std::fabs(cxay) + std::fabs(axcy)) * b2 +
                             (std::fabs(axby) + std::fabs(bxay)) * c2;
    if (std::fabs(value) > in_circle_bound * permanent) return value;
    return exact_in_circle(a, b, c, d);
}

}  // namespace dotsift
