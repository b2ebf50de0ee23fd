#include "study/file/read_placement.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

/// A point in the plane, in space a line through two points.
template <int D>
std::optional<typename PlacementSpecIn<D>::Centre> read_centre(const Section& s, std::string_view key) {
    if constexpr (D == 2) {
        const auto p = s.point(key);
        return p ? std::optional(std::array<Vec2, 1>{*p}) : std::nullopt;
    } else {
        const auto line = s.exactly<3, 2>(key);
        if (line && (*line)[0] == (*line)[1]) {
            s.fault(key, "has the same point twice", "give two points of the axis");
            return std::nullopt;
        }
        return line;
    }
}

template <int D>
bool encloses_nothing(const std::array<Vec<D>, static_cast<std::size_t>(D)>& points) {
    if constexpr (D == 2)
        return points[0] == points[1];
    else
        return norm(cross(points[1] - points[0], points[2] - points[0])) == 0;
}

}  // namespace

template <int D>
void read_placement(const Section& s, PlacementSpecIn<D>& p) {
    p.mirror = s.exactly<D, static_cast<std::size_t>(D)>("mirror");
    if (p.mirror && encloses_nothing<D>(*p.mirror)) {
        if (D == 2)
            s.fault("mirror", "has the same point twice", "give two points of the line");
        else
            s.fault("mirror", "has its points on one line", "give three points of the plane");
        p.mirror.reset();
    }
    p.rotate = s.number("rotate", dimension::none).value_or(0);
    if constexpr (D == 3) p.about[1] = {{0, 0, 1}};
    p.about = read_centre<D>(s, "about").value_or(p.about);
    p.move = s.point_in<D>("move").value_or(Vec<D>{});
    if (const auto n = s.one_or_two_wholes("repeat")) p.repeat = *n;
    p.around = read_centre<D>(s, "around");
    if (s.has("step")) {
        // A grid that a variable leaves one row is still written as one.
        if (p.repeat[1] > 1 || s.holds_lists("step")) {
            if (const auto two = s.exactly<D, 2>("step")) p.step = *two;
        } else if (const auto one = s.point_in<D>("step")) {
            p.step[0] = *one;
        }
    }
    p.every = s.number("every", dimension::none);
    if (s.has("repeat") && !s.has("step") && !s.has("around"))
        s.fault("repeat", D == 2 ? "needs a step or a point to turn around" : "needs a step or an axis to turn around",
                D == 2 ? "as in: step = [10, 0], or around = [0, 0]"
                       : "as in: step = [10, 0, 0], or around = [[0, 0, 0], [0, 0, 1]]");
    if (s.has("step") && s.has("around")) s.fault("step", "and around exclude each other", "remove one of them");
    if (p.around && p.repeat[1] > 1) s.fault("repeat", "is one number for copies around a point");
    for (const auto* key : {"step", "around"})
        if (s.has(key) && !s.has("repeat")) s.fault(key, "goes with repeat", "say how often");
    if (s.has("every") && !s.has("around")) s.fault("every", "goes with around");
    if (p.repeat[0] * p.repeat[1] > 100'000) s.fault("repeat", "asks for more than 100000 copies");
}
template void read_placement(const Section&, PlacementSpec&);
template void read_placement(const Section&, PlacementSpecIn<3>&);

}  // namespace dotsift
