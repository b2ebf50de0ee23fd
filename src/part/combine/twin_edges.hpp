#pragma once
// Edges of periodic and cyclic pairs that are each other's image.

#include <vector>

#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Places at which an edge is held against another one.
inline constexpr int samples_of_edge = 16;

/// For each pair of the study the edges of its first boundary with those of the second that they become when they are
/// moved or turned there, point by point; edges without such an image, and closed ones, are left out.
std::vector<EdgeTwin> twin_edges(const Study& study, const Part& part);

/// Where the second boundary of a pair has what lies at a place of the first, and back.
struct PairMap {
    PairMap(const PeriodicSpec& pair, const Part& part);
    [[nodiscard]] Vec2 forth(const Vec2& p) const;
    [[nodiscard]] Vec2 back(const Vec2& p) const;
    const PeriodicSpec& pair;
    Vec2 shift;  ///< of a pair that is moved, and between the middles of one that is turned
    Vec2 first_middle, second_middle;
};

}  // namespace dotsift
