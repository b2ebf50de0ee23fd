#pragma once
// Orientation and in-circle tests whose sign is always right.

#include "base/vec.hpp"

namespace dotsift {

/// > 0 if a, b, c turn left, < 0 if they turn right, exactly 0 if they lie on one line.
/// The sign is exact; the magnitude is twice the triangle's area up to rounding.
/// A filter in double precision (error bound of Shewchuk 1997, "Adaptive precision floating-point arithmetic and
/// fast robust geometric predicates", Discrete Comput. Geom. 18) decides nearly always, exact integers the rest.
double orientation(const Vec2& a, const Vec2& b, const Vec2& c);

/// > 0 if d lies inside the circle through a, b, c (which turn left), < 0 outside, exactly 0 on it.
double in_circle(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d);

}  // namespace dotsift
