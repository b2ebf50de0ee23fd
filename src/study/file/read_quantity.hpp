#pragma once
// Quantities and paths of a study file.

#include <string>
#include <vector>

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Faults are noted in the context's problems; cases must have been read before.
void read_quantities(const Section& top, Study& study);

/// Of all fields, in their order.
const std::vector<std::string>& field_names();

}  // namespace dotsift
