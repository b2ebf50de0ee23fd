#pragma once
// What lies opposite to a place on a face of a solid, across its material or across a gap.

#include <optional>

#include "part/solid/body_finder.hpp"

namespace dotsift {

/// Of a part's size: from where a ray leaves its face, so that it does not meet that again.
inline constexpr double clear_share = 1e-7;

struct OppositePlace {
    int face = 0;
    Vec3 place;
};

/// What a ray meets first that leaves a face along `way`, a unit vector square to it, into a body (-1: a gap); nothing
/// where that looks away, since normals that differ by more than 35 degrees from straight against each other make no
/// wall, or where the ray did not run in that body. A hair off the normal, since a ray square to an axis would tell
/// nothing of what is turned about it. Safe to share between threads.
std::optional<OppositePlace> opposite_of(const SolidPart& part, const BodyFinder& finder, const Vec3& from,
                                         const Vec3& way, int body);

/// The normals of two faces look straight enough against each other across a wall or gap that runs along `way`.
bool look_at_each_other(const Vec3& normal, const Vec3& other, const Vec3& way);

}  // namespace dotsift
