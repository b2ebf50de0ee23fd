#pragma once
// What is told of a solid before it is meshed.

#include "inspect/inspect.hpp"

namespace dotsift {

/// Measures, regions, names with their faces, and how many elements the sizes ask for.
PartReport inspect_solid(const Study& study, const SolidPart& part);

/// All regions have a material, with the constants that exponents of singular places depend on.
bool exponents_are_known(const Study& study, const PartNames& part);

/// Its measures as one sentence.
std::string solid_sentence(const PartReport& report, const std::string& length_unit);

}  // namespace dotsift
