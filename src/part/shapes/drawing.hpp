#pragma once
// A drawing file -> steps that add, cut or mark its outlines.

#include <vector>

#include "part/combine/combine.hpp"
#include "study/study.hpp"

namespace dotsift {

struct DrawingSteps {
    std::vector<CombineStep> steps;
    std::string note;  ///< what was read and joined, in one line
};

/// Reads a drawing, joins its ends and finds its outlines. Faults (open outlines with the width of their gap, branches,
/// crossings) go into `problems`, and there are no steps then.
DrawingSteps steps_of_drawing(const Study& study, const ShapeSpec& shape, Problems& problems);

}  // namespace dotsift
