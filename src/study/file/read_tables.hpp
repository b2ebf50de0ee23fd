#pragma once
// The tables of a study file that formulas call. Only the reader of study files uses this.

#include <memory>
#include <vector>

#include "study/file/section.hpp"
#include "study/formula.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Every [table.NAME], of points in the study or in a file beside it, which is noted as one that the study needs.
std::shared_ptr<const std::vector<ValueTable>> read_value_tables(const Section& top, Study& study);

}  // namespace dotsift
