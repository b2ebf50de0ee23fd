#pragma once
// Where a part is narrow: walls of material, and gaps between boundaries.

#include <vector>

#include "part/part.hpp"

namespace dotsift {

/// The shortest way across between two places of the boundary.
struct NarrowPlace {
    int face = -1;  ///< the piece of material that it crosses; -1: a gap
    int edge_a = 0, edge_b = 0;
    Vec2 a, b;
    [[nodiscard]] double width() const { return distance(a, b); }
};

/// The way across the material from a point of the boundary.
struct Crossing {
    int face = 0, edge = 0;
    Vec2 from, to;
    double width = 0;  ///< the diameter of the largest circle in the material that touches the boundary there
};
/// Ways across at sampled points of the boundary, where the circle touches the far side nearly opposite.
std::vector<Crossing> crossings(const Part& part);

/// The narrowest place of each face, and the narrowest gap between each two regions (or within one), if there are any.
/// Found where the largest circles that touch the boundary at a sampled point touch it again on the far side (shrinking
/// balls: Ma, Bae & Choi 2012, Vis. Comput. 28), then made exact by projecting to and fro. Corners do not count as
/// narrow.
std::vector<NarrowPlace> narrow_places(const Part& part);

}  // namespace dotsift
