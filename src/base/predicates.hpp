#pragma once
// Orientation, in-circle and in-sphere tests whose sign is always right. The filters are inline: they decide nearly
// always.

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
inline constexpr double space_orientation_bound = (7.0 + 56.0 * unit_roundoff) * unit_roundoff;
inline constexpr double in_sphere_bound = (16.0 + 224.0 * unit_roundoff) * unit_roundoff;

/// The signs by exact integers.
double exact_orientation(const Vec2& a, const Vec2& b, const Vec2& c);
double exact_in_circle(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d);
double exact_orientation(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d);
double exact_in_sphere(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d, const Vec3& e);

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

/// > 0 if d lies on the side of the plane through a, b, c from which these turn left, < 0 on the other, exactly 0 on
/// it. The sign is exact; the magnitude is six times the tetrahedron's volume up to rounding.
inline double orientation(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) {
    const double ax = a[0] - d[0], bx = b[0] - d[0], cx = c[0] - d[0], ay = a[1] - d[1], by = b[1] - d[1],
                 cy = c[1] - d[1], az = a[2] - d[2], bz = b[2] - d[2], cz = c[2] - d[2];
    const double bxcy = bx * cy, cxby = cx * by, cxay = cx * ay, axcy = ax * cy, axby = ax * by, bxay = bx * ay;
    const double value = az * (bxcy - cxby) + bz * (cxay - axcy) + cz * (axby - bxay);
    const double permanent = (std::fabs(bxcy) + std::fabs(cxby)) * std::fabs(az) +
                             (std::fabs(cxay) + std::fabs(axcy)) * std::fabs(bz) +
                             (std::fabs(axby) + std::fabs(bxay)) * std::fabs(cz);
    if (std::fabs(value) > predicates::space_orientation_bound * permanent) return -value;
    return predicates::exact_orientation(a, b, c, d);
}

/// > 0 if e lies inside the sphere through a, b, c, d (whose orientation is > 0), < 0 outside, exactly 0 on it.
inline double in_sphere(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d, const Vec3& e) {
    const double ax = a[0] - e[0], bx = b[0] - e[0], cx = c[0] - e[0], dx = d[0] - e[0];
    const double ay = a[1] - e[1], by = b[1] - e[1], cy = c[1] - e[1], dy = d[1] - e[1];
    const double az = a[2] - e[2], bz = b[2] - e[2], cz = c[2] - e[2], dz = d[2] - e[2];
    const double axby = ax * by, bxay = bx * ay, bxcy = bx * cy, cxby = cx * by, cxdy = cx * dy, dxcy = dx * cy,
                 dxay = dx * ay, axdy = ax * dy, axcy = ax * cy, cxay = cx * ay, bxdy = bx * dy, dxby = dx * by;
    const double ab = axby - bxay, bc = bxcy - cxby, cd = cxdy - dxcy, da = dxay - axdy, ac = axcy - cxay,
                 bd = bxdy - dxby;
    const double abc = az * bc - bz * ac + cz * ab, bcd = bz * cd - cz * bd + dz * bc,
                 cda = cz * da + dz * ac + az * cd, dab = dz * ab + az * bd + bz * da;
    const double a2 = ax * ax + ay * ay + az * az, b2 = bx * bx + by * by + bz * bz, c2 = cx * cx + cy * cy + cz * cz,
                 d2 = dx * dx + dy * dy + dz * dz;
    const double value = (d2 * abc - c2 * dab) + (b2 * cda - a2 * bcd);
    const double ab_size = std::fabs(axby) + std::fabs(bxay), bc_size = std::fabs(bxcy) + std::fabs(cxby),
                 cd_size = std::fabs(cxdy) + std::fabs(dxcy), da_size = std::fabs(dxay) + std::fabs(axdy),
                 ac_size = std::fabs(axcy) + std::fabs(cxay), bd_size = std::fabs(bxdy) + std::fabs(dxby);
    const double az_size = std::fabs(az), bz_size = std::fabs(bz), cz_size = std::fabs(cz), dz_size = std::fabs(dz);
    const double permanent = (cd_size * bz_size + bd_size * cz_size + bc_size * dz_size) * a2 +
                             (da_size * cz_size + ac_size * dz_size + cd_size * az_size) * b2 +
                             (ab_size * dz_size + bd_size * az_size + da_size * bz_size) * c2 +
                             (bc_size * az_size + ac_size * bz_size + ab_size * cz_size) * d2;
    if (std::fabs(value) > predicates::in_sphere_bound * permanent) return -value;
    return predicates::exact_in_sphere(a, b, c, d, e);
}

}  // namespace dotsift
