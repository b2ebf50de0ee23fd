#pragma once
// How a solid's volume lies round its centroid.

#include <array>

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// Second moments of the volume about axes through a point, in the study's unit to the power 5: the integrals of
/// y^2 + z^2, z^2 + x^2, x^2 + y^2, and of x y, y z, z x. Times the density they are those of inertia.
struct VolumeMoments {
    double ixx = 0, iyy = 0, izz = 0, ixy = 0, iyz = 0, izx = 0;
};

/// Of all bodies, each weighed, about a point; by Gauss's theorem over their faces.
VolumeMoments moments_about(const SolidPart& part, const Vec3& about, const std::vector<double>& weight_of_body);

/// The moments about the principal axes, ascending, and those axes, right-handed.
struct PrincipalAxes {
    std::array<double, 3> moments{};
    std::array<Vec3, 3> axes{};
};
PrincipalAxes principal_axes(const VolumeMoments& moments);

}  // namespace dotsift
