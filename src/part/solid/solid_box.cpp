#include "part/solid/solid_box.hpp"

#include <algorithm>
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

/// The same of a spline surface: sought from the places of its grid that reach farther than their neighbours.
void add_peaks(const Surface& surface, std::size_t axis, std::vector<Vec3>& places) {
    constexpr int rounds = 30;
    const auto& grid = surface.grid();
    const SplineSurface& spline = surface.spline();
    const std::size_t rows = grid.lines(0).size(), row = grid.lines(1).size();
    for (std::size_t i = 1; i + 1 < rows; ++i)
        for (std::size_t j = 1; j + 1 < row; ++j) {
            const double here = grid.place(i, j)[axis];
            bool highest = true, lowest = true;
            for (std::size_t a = i - 1; a <= i + 1; ++a)
                for (std::size_t b = j - 1; b <= j + 1; ++b) {
                    highest = highest && grid.place(a, b)[axis] <= here;
                    lowest = lowest && grid.place(a, b)[axis] >= here;
                }
            if (highest == lowest) continue;
            Vec2 at{{grid.lines(0)[i], grid.lines(1)[j]}};
            for (int round = 0; round < rounds; ++round) {
                const auto s = spline.at(at);
                const double a = s.duu[axis], b = s.duv[axis], c = s.dvv[axis], det = a * c - b * b;
                if (!(det > 0)) break;
                const Vec2 step{{(b * s.dv[axis] - c * s.du[axis]) / det, (b * s.du[axis] - a * s.dv[axis]) / det}};
                for (std::size_t k = 0; k < 2; ++k)
                    at[k] = std::clamp(at[k] + step[k], spline.low()[k], spline.high()[k]);
            }
            places.push_back(surface.point(at));
        }
}

}  // namespace

Box<3> box_of(const SolidPart& part) {
    Box<3> box;
    for (const auto& e : part.edges) box.add(e.curve.box());
    std::optional<BodyFinder> finder;
    for (std::size_t f = 0; f < part.faces.size(); ++f) {
        const Surface& surface = part.faces[f].surface;
        if (surface.kind() == Surface::Kind::facets) {
            for (const Vec3& p : surface.facets().points()) box.add(p);
            continue;
        }
        const bool spline = surface.kind() == Surface::Kind::spline;
        if (!spline && (surface.kind() != Surface::Kind::turned || surface.profile().straight())) continue;
        std::vector<Vec3> places;
        for (std::size_t axis = 0; axis < 3; ++axis) (spline ? add_peaks : add_bulges)(surface, axis, places);
        for (const Vec3& p : places) {
            if (box.distance_to(p) == 0) continue;
            if (!finder) finder.emplace(part);
            if (finder->inside_face(f, p)) box.add(p);
        }
    }
    return box;
}

}  // namespace dotsift
