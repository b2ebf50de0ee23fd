#pragma once
// Corners that fell together.

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// Where surfaces meet in one point the geometry library may leave several corners, with edges between them, within its
/// tolerance: such edges, whose ends came to lie at one place, go, and their corners become one.
void merge_corners(SolidPart& part);

}  // namespace dotsift
