#pragma once
// Tables of values at scattered points, and a thickness that changes, against the part.

#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Warns where the points of a table leave places of the part without neighbours: what formulas get there.
void check_tables(const Study& study, const Part& part, Problems& problems);
/// A fault where a thickness that changes is not above zero in its region, as far as samples see.
void check_thickness(const Study& study, const Part& part, Problems& problems);

}  // namespace dotsift
