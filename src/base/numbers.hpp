#pragma once
// Numbers as people read them.

#include <string>

#include "base/vec.hpp"

namespace dotsift {

/// `digits` significant digits, without an exponent for sizes between 1e-3 and 1e6; "-" for NaN.
std::string sensible(double value, int digits = 4);

/// A number that was given: up to six significant digits, none that say nothing.
std::string as_given(double value);

/// A value with as many digits as its uncertainty leaves meaningful (two digits of the uncertainty), at most 8.
std::string with_uncertainty(double value, double uncertainty);

/// A ratio in percent: "1.2 %", "0.034 %"; "-" for NaN.
std::string percent(double ratio);

/// 0 for what is rounding beside a size.
double without_rounding(double value, double size);

/// A place: "(12.5, 3)"; a coordinate that is rounding beside the other one is 0.
std::string told_point(const Vec2& p);
std::string told_point(const Vec3& p);

/// 12,345,678 with thin groups: "12 345 678".
std::string grouped(long long value);

}  // namespace dotsift
