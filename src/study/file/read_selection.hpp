#pragma once
// One [part.selection.NAME] of a study file.

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Into the study's selections, or, of faces and where the part has shapes of space, into those of its solid. Faults go
/// into the context's problems.
void read_selection(const Section& section, const std::string& name, Study& study);

}  // namespace dotsift
