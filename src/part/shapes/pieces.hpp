#pragma once
// The curves of which an outline is made.

#include <optional>

#include "part/curve.hpp"
#include "study/diagnostics.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The curve from a point along piece `number` (counted from 1). Nothing, with the fault noted, if there is none.
std::optional<Curve> curve_of_piece(const Vec2& from, const PieceSpec& piece, std::size_t number, Problems& problems);

/// The circular arc from a through b to c; a straight line if they lie on one.
Curve arc_through(const Vec2& a, const Vec2& b, const Vec2& c);

/// The circular arc between two points that sweeps 4 atan(bulge), anticlockwise if positive.
Curve arc_of_bulge(const Vec2& a, const Vec2& b, double bulge);

}  // namespace dotsift
