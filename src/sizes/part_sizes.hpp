#pragma once
// Part and size rules -> size field.

#include "part/part.hpp"
#include "sizes/size_field.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The field that the study's size rules ask for on the part: global, local sizes on boundaries, segments per circle
/// on curved ones.
SizeField size_field_of(const Part& part, const SizeSpec& sizes);

/// What the segments-per-circle rule alone asks for.
std::vector<SizeSource> curvature_sources(const Part& part, const SizeSpec& sizes);

/// The global size that is used when the study gives none: a twelfth of the square root of the area.
double suggested_size(const Part& part);

}  // namespace dotsift
