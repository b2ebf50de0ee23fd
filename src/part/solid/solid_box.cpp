#include "part/solid/solid_box.hpp"

#include <cmath>

#include "part/solid/body_finder.hpp"

namespace dotsift {

namespace {

/// Places of a turned surface at which a coordinate may have an extreme inside: their normal points along its axis.
void add_bulges(const Surface& surface, std::size_t axis, std::vector<Vec3>& places) {
    const Frame& f = surface.frame();
    const double x = f.axis[0][axis], y = f.axis[1][axis], z = f.axis[2][axis], across = std::hypot(x, y);
    const double angle = std::atan2(y, x);
    for (const double side : {1.0, -1.0}) {
        // The coordinate, as the first one of the profile.
        const Curve seen = surface.profile().transformed({{{side * across, 0}}, {{z, 1}}, {}});
        for (const double t : seen.extremes(0))
            places.push_back(surface.point({{side > 0 ? angle : angle + std::acos(-1.0), t}}));
    }
}

}  // namespace

Box<3> box_of(const SolidPart& part) {
    Box<3> box;
    for (const auto& e : part.edges) box.add(e.curve.box());
    std::optional<BodyFinder> finder;
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        const Surface& surface = part.faces[f].surface;
        if (surface.kind() != Surface::Kind::turned || surface.profile().straight()) continue;
        std::vector<Vec3> places;
        for (std::size_t axis = 0; axis < 3; ++axis) add_bulges(surface, axis, places);
        for (const Vec3& p : places) {
            if (box.distance_to(p) == 0) continue;
            if (!finder) finder.emplace(part);
            if (finder->inside_face(f, p)) box.add(p);
        }
    }
    return box;
}

}  // namespace dotsift
