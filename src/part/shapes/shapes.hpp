#pragma once
// A shape of the study -> the closed chain of curves round it.

#include <string>
#include <vector>

#include "part/curve.hpp"
#include "study/study.hpp"

namespace dotsift {

/// One edge of a shape, with every name it was given.
struct ShapeEdge {
    Curve curve;
    std::vector<std::string> names;
};

/// The edges round a shape, anticlockwise; of a line, or an outline that only splits or marks, the open chain. Faults
/// (a self-crossing polygon, a round that does not fit) go into `problems`, and the result is then empty.
std::vector<ShapeEdge> outline_of(const ShapeSpec& shape, Problems& problems);

}  // namespace dotsift
