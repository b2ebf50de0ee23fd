#pragma once
// A size on a face of a solid -> size sources that cover it.

#include <array>
#include <functional>
#include <vector>

#include "part/solid/solid_part.hpp"
#include "sizes/size_field.hpp"

namespace dotsift {

/// Triangles over the face, as of an area on its chart; where it bends they are halved until they follow it.
/// `size` tells what is wanted at a place with these parameters of the surface, `varies` that it is not the same
/// everywhere. It holds to the distance `reach`.
void add_face_sources(const SolidPart& part, std::size_t face,
                      const std::function<double(const Vec3& place, const Vec2& parameters)>& size, bool varies,
                      double reach, int rule, std::vector<SizeSourceIn<3>>& sources);

/// A triangle with a size at each corner; nothing if it has no area.
void add_triangle_source(const std::array<Vec3, 3>& corners, const std::array<double, 3>& sizes, double reach, int rule,
                         std::vector<SizeSourceIn<3>>& sources);

}  // namespace dotsift
