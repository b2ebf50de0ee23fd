#pragma once
// One [[part.shape]] of a study file -> ShapeSpec.

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Faults are noted in the context's problems; the shape is then not sound.
ShapeSpec read_shape(const Section& section);

/// A shape that is no part of the part, from a table with the key "shape"; with `lines` it may be a line.
ShapeSpec read_placed_shape(const Section& section, bool lines);

}  // namespace dotsift
