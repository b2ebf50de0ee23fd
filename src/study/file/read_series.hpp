#pragma once
// Series of a study file.

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Faults are noted in the context's problems; size rules must have been read before.
void read_series(const Section& top, Study& study);

}  // namespace dotsift
