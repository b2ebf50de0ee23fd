#pragma once
// Where a shape and its copies are put, as a study file says it.

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Keys that place a shape or copies of it.
inline const std::vector<std::string> placement_keys{"mirror", "rotate", "about",  "move",
                                                     "repeat", "step",   "around", "every"};

template <int D>
void read_placement(const Section& section, PlacementSpecIn<D>& placement);

}  // namespace dotsift
