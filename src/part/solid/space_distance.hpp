#pragma once
// How far away a shape of space is.

#include "study/study.hpp"

namespace dotsift {

/// Of a box, cylinder, cone, sphere or ring, before it is placed: < 0 inside; at most the distance to its surface.
double distance_to(const SpaceShapeSpec& shape, const Vec3& p);

/// The box round it, before it is placed.
Box<3> box_round(const SpaceShapeSpec& shape);

}  // namespace dotsift
