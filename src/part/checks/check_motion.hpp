#pragma once
// What the supports of a study leave free.

#include "part/part.hpp"
#include "study/diagnostics.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Notes every rigid motion of a piece of the part that the supports leave.
void check_rigid_motion(const Study& study, const Part& part, Problems& problems);

/// Notes every piece of the part of which nothing fixes the level of the potential.
void check_level(const Study& study, const Part& part, Problems& problems);

}  // namespace dotsift
