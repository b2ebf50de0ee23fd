#pragma once
// Names given to edges and points that are found by rules.

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Names the edges, of a solid the faces, between regions: as the study says, or FIRST_and_SECOND.
template <int D>
void name_interfaces(const Study& study, PartIn<D>& part, Problems& problems);

/// Applies the study's selections in their order, so that later ones may refer to names made by earlier ones. An empty
/// or ambiguous selection, or an unexpected count, is a fault that lists the candidates.
void apply_selections(const Study& study, Part& part, Problems& problems);

}  // namespace dotsift
