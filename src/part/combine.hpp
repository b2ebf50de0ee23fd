#pragma once
// Adding and cutting plane shapes, behind plain data. The geometry library is used by one loadable module only
// (src/part/kernel), so that a part that needs no booleans does not pay for it.

#include <string>
#include <vector>

#include "part/curve.hpp"

namespace dotsift {

/// A closed chain of curves, anticlockwise; every curve has a label.
struct LabelledLoop {
    bool add = true;
    std::vector<Curve> curves;
    std::vector<int> labels;
};

/// A piece of an input curve on the outline of the result, run with the material on its left.
struct CombinedEdge {
    Curve curve;
    std::vector<int> labels;  ///< of all input curves that it lies on
};

/// A connected piece of the result: its outer loop first, then its holes.
using CombinedFace = std::vector<std::vector<CombinedEdge>>;

/// Applies the loops in order. Throws InputError if the geometry cannot be combined.
std::vector<CombinedFace> combine(const std::vector<LabelledLoop>& loops);

}  // namespace dotsift
