#pragma once
// Names given to faces, edges and points of a solid that are found by rules.

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Applies the study's selections in their order, so that later ones may refer to names made by earlier ones. An empty
/// or ambiguous selection, or an unexpected count, is a fault that lists the candidates.
/// Those by which changes of the part choose their edges have done their work then, and are left alone.
void apply_space_selections(const Study& study, SolidPart& part, Problems& problems);

/// The edges that a selection finds on the part as it stands. Faults are noted, and nothing is found then.
std::vector<int> edges_by_rule(const Study& study, const std::string& name, const SolidPart& part, Where where,
                               Problems& problems);

}  // namespace dotsift
