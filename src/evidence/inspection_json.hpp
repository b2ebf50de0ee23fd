#pragma once
// What an inspection found, for machines.

#include <nlohmann/json.hpp>

#include "inspect/inspect.hpp"

namespace dotsift {

/// Format 1; described in docs/summary.md.
nlohmann::ordered_json inspection_json(const StudyAndPart& opened, const PartReport& report, const Problems& problems);

}  // namespace dotsift
