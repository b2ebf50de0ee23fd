#include "part/solid/surface_kind.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

constexpr double equal_radius_share = 1e-6;  // relative: the same radius

}  // namespace

SurfaceKind kind_of(const Surface& s) {
    if (s.kind() == Surface::Kind::plane) return {SpaceSelectionSpec::Kind::plane, 0};
    if (s.kind() == Surface::Kind::spline || s.kind() == Surface::Kind::facets) return {};
    const Curve& c = s.profile();
    if (s.kind() == Surface::Kind::drawn) {
        if (c.straight()) return {SpaceSelectionSpec::Kind::plane, 0};
        return c.circular() ? SurfaceKind{SpaceSelectionSpec::Kind::cylinder, norm(c.axis_a())} : SurfaceKind{};
    }
    const double reach = std::max({std::fabs(c.start()[0]), std::fabs(c.end()[0]), distance(c.start(), c.end())});
    if (c.straight()) {
        if (std::fabs(c.start()[1] - c.end()[1]) <= equal_radius_share * reach)
            return {SpaceSelectionSpec::Kind::plane, 0};
        if (std::fabs(c.start()[0] - c.end()[0]) <= equal_radius_share * reach)
            return {SpaceSelectionSpec::Kind::cylinder, c.start()[0]};
        return {SpaceSelectionSpec::Kind::cone, 0};
    }
    if (!c.circular()) return {};
    const double r = norm(c.axis_a());
    return {std::fabs(c.centre()[0]) <= equal_radius_share * r ? SpaceSelectionSpec::Kind::sphere
                                                               : SpaceSelectionSpec::Kind::ring,
            r};
}

CylinderAxis axis_of_cylinder(const Surface& s) {
    const Frame& f = s.frame();
    if (s.kind() == Surface::Kind::turned) return {f.origin, f.axis[2]};
    const Vec2& c = s.profile().centre();
    return {f.out({{c[0], c[1], 0}}), f.axis[2]};
}

}  // namespace dotsift
