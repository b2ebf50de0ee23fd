#pragma once
// A shape of space -> the solid that it is.

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// What a plane part makes when it is drawn or turned.
SolidPart swept_solid(const Part& part, const SweepSpec& sweep);

/// With its names, before it is placed. `around`: what a plane is to reach across. `part_at`: the angle at which faces
/// that go all round are parted, radians. Faults go into `problems`, and nothing is then returned.
std::optional<SolidPart> solid_of_shape(const SpaceShapeSpec& shape, const Box<3>& around, double part_at,
                                        Problems& problems);

}  // namespace dotsift
