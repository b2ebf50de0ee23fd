#pragma once
// Tables of values at scattered points against the part.

#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Warns where the points of a table leave places of the part without neighbours: what formulas get there.
void check_tables(const Study& study, const Part& part, Problems& problems);

}  // namespace dotsift
