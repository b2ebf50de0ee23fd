#pragma once
// Numbering that keeps neighbours close in memory.

#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// The order of the points along a Hilbert curve over their bounding box: order[k] is the k-th point.
template <int D>
std::vector<int> hilbert_order(const std::vector<Vec<D>>& points);

}  // namespace dotsift
