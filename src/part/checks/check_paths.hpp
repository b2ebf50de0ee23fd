#pragma once
// Paths of a study against its part.

#include "part/part.hpp"
#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Values are wanted where the part is; a stress is linearised across a whole wall; a boundary that is followed is one
/// line. `tolerance` is the distance within which a point lies on a curve.
void check_paths(const Study& study, const Part& part, double tolerance, Problems& problems);
void check_paths(const Study& study, const SolidPart& part, Problems& problems);

}  // namespace dotsift
