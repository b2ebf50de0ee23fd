#pragma once
// What a study wants to be written down, pictures above all. Only the reader of study files uses this.

#include <string>
#include <vector>

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Every [picture.NAME], and [results]; after cases and series.
void read_results(const Section& top, Study& study);

}  // namespace dotsift
