#pragma once
// Orientation and in-circle tests whose sign is always right. The filters are inline: they decide nearly always.

#include <cfloat>
#include <cmath>

#include "base/vec.hpp"

namespace dotsift {

namespace predicates {

// Error bounds of Shewchuk 1997, "Adaptive precision floating-point arithmetic and fast robust geometric predicates",
// Discrete Comput. Geom. 18.
inline constexpr double unit_roundoff = DBL_EPSILON / 2;
inline constexpr double orientation_bound = (3.0 + 16.0 * unit_roundoff) * unit_roundoff;
inline constexpr double in_circle_bound = (10.0 + 96.0 * unit_roundoff) * unit_roundoff;

/// The signs by exact integers.
double exact_orientation(const Vec2& a, const Vec2& b, const Vec2& c);
double exact_in_circle(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d);

}  // namespace predicates

/// > 0 if a, b, c turn left, < 0 if they turn right, exactly 0 if they lie on one line.
/// The sign is exact; the magnitude is twice the triangle's area up to rounding.
inline double orientation(const Vec2& a, const Vec2& b, const Vec2& c) {
    const double left = (a[0] - c[0]) * (b[1] - c[1]);
    const double right = (a[1] - c[1]) * (b[0] - c[0]);
    const double value = left - right;
    if (std::fabs(value) > predicates::orientation_bound * (std::fabs(left) + std::fabs(right))) return value;
    return predicates::exact_orientation(a, b, c);
}

/// > 0 if d lies inside the circle through a, b, c (which turn left), < 0 outside, exactly 0 on it.
inline double in_circle(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    const double ax = a[0] - d[0], ay = a[1] - d[1], bx = b[0] - d[0], by = b[1] - d[1], cx = c[0] - d[0],
                 cy = c[1] - d[1];
    const double bxcy = bx * cy, cxby = cx * by, cxay = cx * ay, axcy = ax * cy, axby = ax * by, bxay = bx * ay;
    const double a2 = ax * ax + ay * ay, b2 = bx * bx + by * by, c2 = cx * cx + cy * cy;
    const double value = a2 * (bxcy - cxby) + b2 * (cxay - axcy) + c2 * (axby - bxay);
    const double permanent = (std::fabs(bxcy) + std::fabs(cxby)) * a2 + (std::fabs(cxay) + std::fabs(axcy)) * b2 +
                             (std::fabs(axby) + std::fabs(bxay)) * c2;
    if (std::fabs(value) > predicates::in_circle_bound * permanent) return value;
    return predicates::exact_in_circle(a, b, c, d);
}

}  // namespace dotsift
