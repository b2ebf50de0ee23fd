#pragma once
// The part's edges divided into segments as long as the size field asks.

#include <vector>

#include "part/part.hpp"
#include "sizes/sizing.hpp"

namespace dotsift {

/// A piece of an edge of the part between two boundary points.
struct Segment {
    int from = 0, to = 0;         ///< indices into Division::points
    int edge = -1;                ///< of the part; -1: a line that only the mesh has
    double t_from = 0, t_to = 1;  ///< parameters on the edge's curve
    int left = -1, right = -1;    ///< faces of the part; -1: nothing to be filled
};

struct Division {
    std::vector<Vec2> points;  ///< the part's vertices first
    std::vector<Segment> segments;
};

/// Points on every edge so that the segments' lengths follow the size field (equal shares of the integral of ds/h),
/// with at least enough of them that no segment turns by more than an eighth of a circle and closed edges stay closed.
/// Edges with a given division have exactly that.
Division divide_edges(const Part& part, const SizeField& sizes, const std::vector<EdgeDivision>& given);

}  // namespace dotsift
