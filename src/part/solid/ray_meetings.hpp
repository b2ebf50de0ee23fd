#pragma once
// Where a ray meets a surface.

#include <optional>
#include <vector>

#include "part/solid/surface.hpp"

namespace dotsift {

/// Places of a ray, from + along * share, share > 0, on a surface, whose faces may be smaller; nothing: the ray is not
/// to be used, since it grazes the surface. Planes, cylinders, cones, balls and rings by their equations, other
/// profiles by where the distance from them changes its sign, splines by Newton's method.
std::optional<std::vector<Vec3>> meetings(const Surface& surface, const Vec3& from, const Vec3& along);

}  // namespace dotsift
