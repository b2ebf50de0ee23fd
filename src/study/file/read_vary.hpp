#pragma once
// The [vary] section of a study, and a study with other values of its variables.

#include <string>
#include <utility>
#include <vector>

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

void read_vary(const Section& top, Study& study);

/// The text of a study with other values for variables, everything else as it stands. The values are as they are
/// written in a file, texts in quotes; the variables must be there.
std::string with_values(const std::string& text, const std::vector<std::pair<std::string, std::string>>& values);

}  // namespace dotsift
