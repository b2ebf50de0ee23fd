#pragma once
// Sizes of a solid for a number of elements across its walls.

#include <vector>

#include "part/solid/body_finder.hpp"
#include "sizes/size_field.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Sources of a rule that asks for elements across: looked for from both faces of each wall, where `rule.on` is (all,
/// without names); walls so thick that they ask for more than the `global` size ask for nothing.
void add_wall_sources(const SolidPart& part, const BodyFinder& finder, const LocalSize& rule, int index, double global,
                      std::vector<SizeSourceIn<3>>& sources);

}  // namespace dotsift
