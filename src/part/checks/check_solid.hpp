#pragma once
// The study of a solid held against it, before anything is computed.

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Notes names that are on no face, regions without a material, rigid motions in space that the supports leave, points
/// outside, and everything of plane studies that solids do not have yet.
void check_solid(const Study& study, const SolidPart& part, Problems& problems);

}  // namespace dotsift
