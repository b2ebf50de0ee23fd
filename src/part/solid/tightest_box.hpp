#pragma once
// The smallest box, turned as it likes, round a solid.

#include "part/solid/solid_part.hpp"

namespace dotsift {

struct TurnedBox {
    Vec3 size;                   ///< the longest side first
    std::array<Vec3, 3> axes{};  ///< along its sides, right-handed
    [[nodiscard]] double volume() const { return size[0] * size[1] * size[2]; }
};

/// Boxes with a side along a plane face, or along principal axes, turned about it until a side of the outline lies
/// along theirs (Freeman & Shapira 1975, Commun. ACM 18), and the smallest of them measured on the true faces. Not
/// larger than the box along the axes; a box that touches no plane face with a side may be smaller still (O'Rourke
/// 1985, Int. J. Comput. Inf. Sci. 14).
TurnedBox tightest_box(const SolidPart& part, const std::array<Vec3, 3>& principal);

}  // namespace dotsift
