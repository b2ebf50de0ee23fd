#pragma once
// Rigid motions in space that supports leave, and potentials whose level nothing fixes.

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Tells in words how each connected piece of the part can still move.
void check_motion_in_space(const Study& study, const SolidPart& part, Problems& problems);
/// Each piece needs a prescribed potential.
void check_level_in_space(const Study& study, const SolidPart& part, Problems& problems);

}  // namespace dotsift
