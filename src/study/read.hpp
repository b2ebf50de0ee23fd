#pragma once
// Study file -> Study.

#include <filesystem>
#include <string>

#include "study/diagnostics.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Reads a study from the text of a TOML file. All faults go into `problems`; the result is complete only if there
/// are none. Whether names fit the part is checked later, when there is a part.
Study read_study(const std::filesystem::path& path, const std::string& text, Problems& problems);

}  // namespace dotsift
