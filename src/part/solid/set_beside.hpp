#pragma once
// Solids that stand apart from each other -> one part, with nothing cut.

#include "part/solid/combine_solids.hpp"

namespace dotsift {

bool has_facets(const SolidPart& part);
bool any_has_facets(const std::vector<SolidStep>& steps);

/// All steps add, and no box meets another one. Throws InputError otherwise: facets cannot be combined.
CombinedSolids set_beside(const std::vector<SolidStep>& steps, const std::vector<std::string>& known_regions);

}  // namespace dotsift
