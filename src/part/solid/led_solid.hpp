#pragma once
// Plane part -> the solid that it makes when it is led along lines and arcs.

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The part's origin runs along the path, the part stays square to it. Its y points as nearly along z as that allows;
/// where the path begins along z, along y. Each line draws the part, each arc turns it about its own axis, so that all
/// surfaces are exact; pieces are joined. Throws InputError if the path has a corner, or bends more sharply than the
/// part is wide.
SolidPart led_solid(const Part& part, const SweepSpec& sweep);

}  // namespace dotsift
