#pragma once
// Solids that stand apart from each other -> one part, with nothing cut.

#include "part/solid/combine_solids.hpp"

namespace dotsift {

/// Adds a solid to a part, uncut: its names and points as they are, its bodies to `region`, or without one to their
/// own.
void append_solid(SolidPart& part, const SolidPart& solid, const std::string& region);

bool has_facets(const SolidPart& part);
bool any_has_facets(const std::vector<SolidStep>& steps);

/// All steps add, and no box meets another one. Throws InputError otherwise: facets cannot be combined.
CombinedSolids set_beside(const std::vector<SolidStep>& steps, const std::vector<std::string>& known_regions);

}  // namespace dotsift
