#pragma once
// Integrals over the faces of a solid.

#include <functional>

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// Calls act(place, area, size): `area` is a vector along the normal, as long as the piece of the face for which it
/// stands, and `size` that length; what Green's theorem takes away has its vector against the normal, and a size < 0.
/// By Green's theorem in the parameters of the face's surface, with eight of Gauss's points each way on each smooth
/// piece of its loops, cut into `pieces` more (those of spline surfaces are small enough): of analytic surfaces, exact
/// to rounding with a few. Around a pole of the surface that the face holds, and over surfaces that close themselves,
/// too.
void over_face(const SolidPart& part, std::size_t face, int pieces,
               const std::function<void(const Vec3& place, const Vec3& area, double size)>& act);

}  // namespace dotsift
