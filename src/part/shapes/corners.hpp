#pragma once
// Rounding and bevelling the corners of a part.

#include <string>
#include <vector>

#include "part/part.hpp"

namespace dotsift {

/// A vertex at which exactly two edges meet at an angle.
struct Corner {
    int vertex = 0;
    EdgeUse in, out;   ///< the edges into it and on from it; outlines run with the material on the left
    double angle = 0;  ///< of the material, degrees; on interfaces the smaller side
    [[nodiscard]] bool outer() const { return angle < 180; }
};

/// Corners whose edges make an angle of more than `smooth` degrees with going straight on.
std::vector<Corner> corners_of(const Part& part, double smooth = 1);

/// The sharpest angle of material at each vertex, degrees; 360 where there is no corner.
std::vector<double> sharpest_angles(const Part& part);

struct CornerChange {
    bool bevel = false;
    double size = 0;  ///< radius of a round; length cut off each edge for a bevel
    std::string name;
};

/// The part with these corners changed. Throws InputError with the place, and the largest size that fits all of them,
/// if one does not fit.
Part change_corners(const Part& part, const std::vector<Corner>& corners, const CornerChange& change);

}  // namespace dotsift
