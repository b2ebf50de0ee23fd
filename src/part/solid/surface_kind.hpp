#pragma once
// What kind of surface a face lies on, as rules and clean-up ask for it.

#include "part/solid/surface.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The kind, and its radius: of a cylinder, a sphere, a ring's section; otherwise 0.
struct SurfaceKind {
    SpaceSelectionSpec::Kind kind = SpaceSelectionSpec::Kind::other;
    double radius = 0;
};
SurfaceKind kind_of(const Surface& surface);

/// A point on the axis of a cylinder, and its direction.
struct CylinderAxis {
    Vec3 point, along;
};
CylinderAxis axis_of_cylinder(const Surface& surface);

}  // namespace dotsift
