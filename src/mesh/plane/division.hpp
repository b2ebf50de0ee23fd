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

/// The point of the part's edge that is equally far from both ends of a segment on it.
Vec2 middle_on_edge(const Part& part, const Segment& segment);

/// Points that an edge must have near one of its ends, by their distance from it along the edge.
struct EdgeEnd {
    int edge = 0;
    bool at_start = true;
    std::vector<double> distances;  ///< rising
};

/// What the division of single edges must keep to. Empty lists mean no demand.
struct DivisionDemands {
    std::vector<EdgeDivision> given;  ///< exact
    std::vector<int> counts;          ///< for each edge how many pieces, spaced as the sizes ask; 0: free
    std::vector<char> even;           ///< for each edge whether the number must be even
    std::vector<EdgeEnd> ends;        ///< with them, counts and even are about the pieces in between
};

/// Points on every edge so that the segments' lengths follow the size field (equal shares of the integral of ds/h),
/// with at least enough of them that no segment turns by more than an eighth of a circle and closed edges stay closed.
/// The segments of an edge follow each other. Throws InputError if a given division is odd where it must be even.
Division divide_edges(const Part& part, const SizeField& sizes, const DivisionDemands& demands = {});

/// How many pieces each edge gets.
std::vector<int> count_pieces(const Part& part, const SizeField& sizes, const DivisionDemands& demands);

}  // namespace dotsift
