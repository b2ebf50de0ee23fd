#pragma once
// Where a solid's walls are thinnest, and the gaps between them narrowest.

#include <vector>

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// Two places opposite to each other, on faces that do not meet there.
struct ThinPlace {
    Vec3 a, b;
    int face_a = 0, face_b = 0;
    int body = -1;  ///< between them; -1: none, it is a gap
    [[nodiscard]] double width() const { return distance(a, b); }
};

/// For each two faces that have material, or nothing, between them and look away from, or at, each other, the nearest
/// such pair; thinnest first. From places on every face rays go both ways along its normal; what they meet first is
/// then brought nearer by projecting from one face to the other in turn.
std::vector<ThinPlace> thin_places(const SolidPart& part);

}  // namespace dotsift
