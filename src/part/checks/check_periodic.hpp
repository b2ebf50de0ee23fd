#pragma once
// Periodic and cyclic pairs of boundaries against the part.

#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The second boundary of each pair has to be the first one, moved or turned; told with the place where it is not, and
/// the angle that would fit.
void check_periodic(const Study& study, const Part& part, Problems& problems);

}  // namespace dotsift
