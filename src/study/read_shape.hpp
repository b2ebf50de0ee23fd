#pragma once
// One [[part.shape]] of a study file -> ShapeSpec.

#include "study/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Faults are noted in the context's problems; the shape is then not sound.
ShapeSpec read_shape(const Section& section);

}  // namespace dotsift
