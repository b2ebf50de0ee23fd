#include "part/solid/space_distance.hpp"

#include <algorithm>
#include <cmath>

#include "part/shapes/placement.hpp"

namespace dotsift {

namespace {

Box<3> round_ball(const Vec3& centre, double radius) {
    Box<3> box;
    const Vec3 r{{radius, radius, radius}};
    box.add(centre - r);
    box.add(centre + r);
    return box;
}

/// Round an axis, with a radius at each end.
double distance_to_cone(const SpaceShapeSpec& s, double first, double last, const Vec3& p) {
    const double length = distance(s.from, s.to), slope = (last - first) / length;
    const Vec3 axis = (s.to - s.from) / length;
    const double h = dot(p - s.from, axis), r = norm(p - s.from - axis * h);
    return std::max({(r - first - slope * h) / std::hypot(1, slope), -h, h - length});
}

}  // namespace

double distance_to(const SpaceShapeSpec& s, const Vec3& p) {
    switch (s.primitive) {
        case SpacePrimitive::box: {
            double most = -INFINITY;
            for (std::size_t k = 0; k < 3; ++k)
                most = std::max({most, s.corner[k] - p[k], p[k] - s.corner[k] - s.size[k]});
            return most;
        }
        case SpacePrimitive::cylinder:
            return distance_to_cone(s, s.radius, s.radius, p);
        case SpacePrimitive::cone:
            return distance_to_cone(s, s.radii[0], s.radii[1], p);
        case SpacePrimitive::ring: {
            const Vec3 n = s.normal / norm(s.normal), d = p - s.centre;
            const double h = dot(d, n);
            return std::hypot(norm(d - n * h) - s.radii[0], h) - s.radii[1];
        }
        default:
            return distance(p, s.centre) - s.radius;
    }
}

Box<3> box_round(const SpaceShapeSpec& s) {
    Box<3> box;
    switch (s.primitive) {
        case SpacePrimitive::box:
            box.add(s.corner);
            box.add(s.corner + s.size);
            return box;
        case SpacePrimitive::cylinder:
        case SpacePrimitive::cone: {
            const double r = s.primitive == SpacePrimitive::cylinder ? s.radius : std::max(s.radii[0], s.radii[1]);
            box = round_ball(s.from, r);
            box.add(round_ball(s.to, r));
            return box;
        }
        case SpacePrimitive::ring:
            return round_ball(s.centre, s.radii[0] + s.radii[1]);
        default:
            return round_ball(s.centre, s.radius);
    }
}

PlacedVolume::PlacedVolume(const SpaceShapeSpec& shape) : shape_(shape), maps_(copies_of(shape.placement)) {}

bool PlacedVolume::operator()(const Vec3& p) const {
    return std::any_of(maps_.begin(), maps_.end(), [&](const AffineIn<3>& map) {
        const Vec3 d = p - map.shift;  // maps are rigid: back by the transposed one
        return distance_to(shape_, Vec3{{dot(map.column[0], d), dot(map.column[1], d), dot(map.column[2], d)}}) <= 0;
    });
}

}  // namespace dotsift
