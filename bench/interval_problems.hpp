#pragma once
// Parts with named quantities, for the calibration of intervals.

#include <string>
#include <vector>

namespace dotsift::bench {

struct IntervalProblem {
    std::string name;
    std::string text;  ///< without sizes, mesh and series
    double size = 0;   ///< of its first mesh
};

std::vector<IntervalProblem> interval_problems();

}  // namespace dotsift::bench
