#pragma once
// Study -> part: the shapes played one after the other, then names, then clean-up.

#include <optional>

#include "part/combine/cleanup.hpp"
#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift {

struct BuiltPart {
    Part part;
    std::optional<Part> original;  ///< before the clean-up, if there was one
    std::vector<CleanupItem> cleanup;
    std::vector<std::string> notes;  ///< what was read from drawings
};

/// Builds the part of a study. Faults go into `problems`; the result is then not to be used.
BuiltPart build_part(const Study& study, Problems& problems);

}  // namespace dotsift
