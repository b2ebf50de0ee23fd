#pragma once
// Names given to faces, edges and points of a solid that are found by rules.

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Applies the study's selections in their order, so that later ones may refer to names made by earlier ones. An empty
/// or ambiguous selection, or an unexpected count, is a fault that lists the candidates.
void apply_space_selections(const Study& study, SolidPart& part, Problems& problems);

}  // namespace dotsift
