#pragma once
// A solid put elsewhere.

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// Moved, turned or mirrored by a rigid map.
SolidPart placed(const SolidPart& part, const AffineIn<3>& map);

/// A face seen from the other side: its normal, loops and bodies change places.
void turn_over(SolidFace& face);

/// The map that brings the axis y to the line from one point towards another, with the origin at the first; x goes to
/// the direction across it that is nearest to an axis, x before y before z.
AffineIn<3> along_line(const Vec3& from, const Vec3& to);

}  // namespace dotsift
