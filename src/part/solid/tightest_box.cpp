#include "part/solid/tightest_box.hpp"

#include <algorithm>
#include <cmath>

#include "part/solid/body_finder.hpp"
#include "part/solid/placed_solid.hpp"

namespace dotsift {

namespace {

constexpr int places_of_edge = 24, places_along_face = 4;
constexpr std::size_t most_directions = 60;
// Directions that differ by less than this are the same; a box must be smaller by as much to count as better.
constexpr double same_share = 1e-9;

std::array<Vec3, 3> axes_about(const Vec3& z, const Vec3& x) {
    return {x, cross(z, x), z};
}

/// The corners of the outline of places in a plane, anticlockwise (Andrew 1979, Inf. Process. Lett. 9).
std::vector<Vec2> hull_of(std::vector<Vec2> places) {
    std::sort(places.begin(), places.end(), [](const Vec2& a, const Vec2& b) { return a.c < b.c; });
    std::vector<Vec2> hull;
    for (const bool back : {false, true}) {
        const std::size_t begun = hull.size();
        for (std::size_t k = 0; k < places.size(); ++k) {
            const Vec2& p = places[back ? places.size() - 1 - k : k];
            while (hull.size() >= begun + 2 && cross(hull.back() - hull[hull.size() - 2], p - hull.back()) <= 0)
                hull.pop_back();
            hull.push_back(p);
        }
        if (!hull.empty()) hull.pop_back();
    }
    return hull;
}

class BoxSearch {
  public:
    explicit BoxSearch(const SolidPart& part) : part_(part) {
        for (const auto& e : part.edges)
            for (int k = 0; k < (e.curve.straight() ? 1 : places_of_edge); ++k)
                places_.push_back(e.curve.point(static_cast<double>(k) / places_of_edge));
        const BodyFinder finder(part);
        for (std::size_t f = 0; f < part.faces.size(); ++f)
            if (part.faces[f].surface.kind() != Surface::Kind::plane)
                for (const Vec2& at : finder.places_on(f, places_along_face))
                    places_.push_back(part.faces[f].surface.point(at));
    }

    /// With one side along z: that round of the outline's sides which makes it smallest.
    void look(const Vec3& z) {
        const Vec3 beside = std::fabs(z[0]) < 0.7 ? Vec3{{1, 0, 0}} : Vec3{{0, 1, 0}};
        const Vec3 x = cross(beside, z) / norm(cross(beside, z)), y = cross(z, x);
        std::vector<Vec2> flat;
        double low = INFINITY, high = -INFINITY;
        for (const Vec3& p : places_) {
            flat.push_back({{dot(p, x), dot(p, y)}});
            low = std::min(low, dot(p, z));
            high = std::max(high, dot(p, z));
        }
        const auto hull = hull_of(std::move(flat));
        for (std::size_t k = 0; k < hull.size(); ++k) {
            const Vec2 side = hull[(k + 1) % hull.size()] - hull[k];
            if (!(norm(side) > 0)) continue;
            const Vec2 u = side / norm(side);
            Box2 box;
            for (const Vec2& p : hull) box.add(Vec2{{dot(p, u), cross(u, p)}});
            const double volume = box.size()[0] * box.size()[1] * (high - low);
            if (volume >= (1 - same_share) * least_) continue;
            least_ = volume;
            best_ = axes_about(z, x * u[0] + y * u[1]);
        }
    }

    [[nodiscard]] const std::array<Vec3, 3>& best() const { return best_; }

    /// On the true faces.
    [[nodiscard]] TurnedBox measured(const std::array<Vec3, 3>& axes) const {
        AffineIn<3> map;  // rows are the axes
        for (std::size_t k = 0; k < 3; ++k) map.column[k] = {{axes[0][k], axes[1][k], axes[2][k]}};
        const Vec3 size = placed(part_, map).box.size();
        std::array<std::size_t, 3> order{0, 1, 2};
        std::sort(order.begin(), order.end(),
                  [&](std::size_t a, std::size_t b) { return size[a] != size[b] ? size[a] > size[b] : a < b; });
        TurnedBox out;
        for (std::size_t k = 0; k < 3; ++k) {
            out.size[k] = size[order[k]];
            out.axes[k] = axes[order[k]];
        }
        if (dot(cross(out.axes[0], out.axes[1]), out.axes[2]) < 0) out.axes[2] = -out.axes[2];
        return out;
    }

  private:
    const SolidPart& part_;
    std::vector<Vec3> places_;
    double least_ = INFINITY;
    std::array<Vec3, 3> best_{};
};

}  // namespace

TurnedBox tightest_box(const SolidPart& part, const std::array<Vec3, 3>& principal) {
    std::vector<Vec3> directions(principal.begin(), principal.end());
    for (const auto& f : part.faces) {
        if (f.surface.kind() != Surface::Kind::plane || directions.size() >= most_directions) continue;
        const Vec3& n = f.surface.frame().axis[2];
        if (std::none_of(directions.begin(), directions.end(),
                         [&](const Vec3& d) { return norm(cross(d, n)) < same_share; }))
            directions.push_back(n);
    }
    BoxSearch search(part);
    for (const Vec3& d : directions) search.look(d);
    const std::array<Vec3, 3> as_it_stands{{{{1, 0, 0}}, {{0, 1, 0}}, {{0, 0, 1}}}};
    const TurnedBox straight = search.measured(as_it_stands), turned = search.measured(search.best());
    return turned.volume() < (1 - same_share) * straight.volume() ? turned : straight;
}

}  // namespace dotsift
