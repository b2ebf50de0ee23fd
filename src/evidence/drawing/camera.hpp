#pragma once
// From where a solid is seen: parallel rays, so that lengths across them are true.

#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// Three directions at right angles: to the right and up on the picture, and towards the eye.
struct Camera {
    Vec3 right{{1, 0, 0}}, up{{0, 1, 0}}, eye{{0, 0, 1}};

    /// Looking from there, with z up as far as that can be.
    static Camera from(const Vec3& direction);
    /// To the right, up, and towards the eye.
    [[nodiscard]] Vec3 operator()(const Vec3& p) const { return {{dot(p, right), dot(p, up), dot(p, eye)}}; }
};

/// The views that pictures choose from, the preferred one first: a corner from above, turned in steps of a quarter, and
/// the same from below.
const std::vector<Camera>& common_views();

}  // namespace dotsift
