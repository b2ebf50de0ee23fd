#pragma once
// The box round a solid.

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// Round its edges, and round turned faces where they bulge beyond them.
Box<3> box_of(const SolidPart& part);

}  // namespace dotsift
