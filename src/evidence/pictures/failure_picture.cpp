#include "evidence/pictures/failure_picture.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/numbers.hpp"

namespace dotsift {

namespace {

constexpr double window_of_part = 0.08;  // of the part's diagonal, each way from the place
constexpr Box2 near_area{{{40, 96}}, {{900, 752}}, false}, whole_area{{{930, 96}}, {{1240, 400}}, false};

/// Pieces of the polyline that lie in the area, so that nothing is drawn over what stands beside it.
std::vector<std::vector<Vec2>> clipped(const std::vector<Vec2>& line, const Box2& area) {
    std::vector<std::vector<Vec2>> pieces;
    for (std::size_t k = 1; k < line.size(); ++k) {
        const Vec2 a = line[k - 1], way = line[k] - a;
        double from = 0, to = 1;  // Liang & Barsky 1984
        for (std::size_t axis = 0; axis < 2; ++axis)
            for (const double sign : {1.0, -1.0}) {
                const double speed = sign * way[axis],
                             room = sign > 0 ? area.high[axis] - a[axis] : a[axis] - area.low[axis];
                if (speed == 0) {
                    if (room < 0) to = -1;
                } else if (speed > 0) {
                    to = std::min(to, room / speed);
                } else {
                    from = std::max(from, room / speed);
                }
            }
        if (from <= to) pieces.push_back({a + way * from, a + way * to});
    }
    return pieces;
}

void draw_edges(Canvas& c, const Part& part, const View& view, const Box2& area, const std::string& boundary,
                double width) {
    std::vector<std::vector<Vec2>> plain, named;
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        auto pieces = clipped(polyline(part.edges[e].curve, view), area);
        auto& lines = part.name_of_edge(static_cast<int>(e)) == boundary ? named : plain;
        lines.insert(lines.end(), pieces.begin(), pieces.end());
    }
    c.lines(plain, ink, width, 1);
    c.lines(named, category(1), 2.5 * width, 1);
}

}  // namespace

PictureFiles draw_failure(const Part& part, const std::string& title, const std::string& what, const Vec2& place,
                          const std::string& boundary, const std::string& unit) {
    return both_formats([&](Canvas& c) {
        heading(c, title, what);
        const double reach = window_of_part * part.box.diagonal();
        Box2 window;
        window.add(place - Vec2{{reach, reach}});
        window.add(place + Vec2{{reach, reach}});
        const View near(window, near_area), whole(part.box, whole_area);
        draw_edges(c, part, near, near_area, boundary, 1.4);
        c.line({near(place) + Vec2{{-36, 0}}, near(place) + Vec2{{-12, 0}}}, category(0), 2);
        c.line({near(place) + Vec2{{12, 0}}, near(place) + Vec2{{36, 0}}}, category(0), 2);
        c.line({near(place) + Vec2{{0, -36}}, near(place) + Vec2{{0, -12}}}, category(0), 2);
        c.line({near(place) + Vec2{{0, 12}}, near(place) + Vec2{{0, 36}}}, category(0), 2);
        draw_edges(c, part, whole, whole_area, boundary, 0.8);
        const Vec2 low = whole(window.low), high = whole(window.high);
        c.line({low, {{high[0], low[1]}}, high, {{low[0], high[1]}}}, category(0), 1.6, 1, true);
        double y = 440;
        const auto say = [&](const std::string& text, bool strong) {
            c.text({{930, y}}, text, {14, strong, ink});
            y += 24;
        };
        say("no mesh here", true);
        say(fmt::format("x = {} {}", sensible(place[0]), unit), false);
        say(fmt::format("y = {} {}", sensible(place[1]), unit), false);
        if (!boundary.empty()) say(fmt::format("boundary: {}", boundary), false);
        length_bar(c, near, unit);
    });
}

}  // namespace dotsift
