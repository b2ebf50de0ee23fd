#pragma once
// [part] of a study file -> the part's specification.

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Shapes, interfaces, selections and clean-up. Faults are noted in the context's problems.
/// Whether the file's [part] makes a solid of its shapes: what is read before it depends on that.
bool makes_solid(const toml::table& root);
void read_part(const Section& top, Study& study);

}  // namespace dotsift
