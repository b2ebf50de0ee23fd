#pragma once
// Part and size rules -> sizing.

#include <filesystem>
#include <string>

#include "part/part.hpp"
#include "part/solid/solid_part.hpp"
#include "sizes/sizing.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The share of a part's diagonal below which no size goes, unless the study says otherwise.
constexpr double smallest_of_diagonal = 1e-7;

/// What the study's rules ask of a mesh of the part. Throws InputError with the rule's place if a table cannot be read,
/// a formula gives no size, a division contradicts another, or a rule's place lies outside the part. `study_file` is
/// where the study stands: paths in it are relative to that.
Sizing sizing_of(const Part& part, const SizeSpec& sizes, const std::filesystem::path& study_file);
SizingIn<3> sizing_of(const SolidPart& part, const SizeSpec& sizes, const std::filesystem::path& study_file);

/// The rule behind an answer of the field, in words: "size.local.bore", "segments per circle", "the global size".
std::string name_of_rule(const SizeSpec& sizes, int rule);

/// What the segments-per-circle rules alone ask for.
std::vector<SizeSource> curvature_sources(const Part& part, const SizeSpec& sizes);
std::vector<SizeSourceIn<3>> curvature_sources(const SolidPart& part, const SizeSpec& sizes);

/// The global size that is used when the study gives none: a twelfth of the square root of the area, of a solid an
/// eighth of the cube root of the volume.
double suggested_size(const Part& part);
double suggested_size(const SolidPart& part);

}  // namespace dotsift
