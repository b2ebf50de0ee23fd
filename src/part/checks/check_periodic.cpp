#include "part/checks/check_periodic.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "part/combine/twin_edges.hpp"

namespace dotsift {

namespace {

// Share of the part's diagonal within which two boundaries are the same; meshes allow ten times as much.
constexpr double same_line = 1e-6;

/// The place of some edges that is farthest from others, when it is brought to them, and how far.
template <class Bring>
std::pair<Vec2, double> farthest(const Part& part, const std::vector<int>& edges, const std::vector<int>& others,
                                 Bring bring) {
    std::pair<Vec2, double> worst{{}, 0};
    for (const int e : edges)
        for (int k = 0; k <= samples_of_edge; ++k) {
            const Vec2 p = part.edge(e).curve.point(static_cast<double>(k) / samples_of_edge), there = bring(p);
            double gap = INFINITY;
            for (const int o : others) {
                const Curve& c = part.edge(o).curve;
                gap = std::min(gap, distance(c.point(c.project(there)), there));
            }
            if (gap > worst.second) worst = {p, gap};
        }
    return worst;
}

}  // namespace

void check_periodic(const Study& study, const Part& part, Problems& problems) {
    for (const auto& pair : study.periodic) {
        const auto a = part.edges_named({pair.between[0]}), b = part.edges_named({pair.between[1]});
        if (a.empty() || b.empty()) continue;  // told already
        const PairMap map(pair, part);
        const Vec2 &first = map.first_middle, &second = map.second_middle;
        const auto back = [&](const Vec2& p) { return map.back(p); };
        const auto forth = [&](const Vec2& p) { return map.forth(p); };
        const auto [place, gap] = farthest(part, b, a, back);
        const auto [other_place, other_gap] = farthest(part, a, b, forth);
        if (std::max(gap, other_gap) <= same_line * part.box.diagonal()) continue;
        const Vec2 worst = gap >= other_gap ? place : other_place;
        if (!pair.turn) {
            problems.add(pair.where,
                         fmt::format("periodic.{}: \"{}\" moved by ({:.6g}, {:.6g}) does not lie on \"{}\": at "
                                     "({:.6g}, {:.6g}) {:.2g} is between them",
                                     pair.name, pair.between[0], second[0] - first[0], second[1] - first[1],
                                     pair.between[1], worst[0], worst[1], std::max(gap, other_gap)),
                         "the two boundaries must have the same shape, one moved from the other; turn is for sectors");
            continue;
        }
        const Vec2 from = first - pair.about, to = second - pair.about;
        const double angle = std::atan2(cross(from, to), dot(from, to)), degrees = 180 / std::numbers::pi;
        const bool other_way = std::fabs(angle + *pair.turn) < std::fabs(angle - *pair.turn);
        problems.add(
            pair.where,
            fmt::format(
                "periodic.{}: \"{}\" turned by {:.6g} degrees about ({:.6g}, {:.6g}) does not lie on \"{}\": at "
                "({:.6g}, {:.6g}) {:.2g} is between them",
                pair.name, pair.between[0], *pair.turn * degrees, pair.about[0], pair.about[1], pair.between[1],
                worst[0], worst[1], std::max(gap, other_gap)),
            fmt::format("{}their middles are {:.6g} degrees apart", other_way ? "turn the other way? " : "",
                        angle * degrees));
    }
}

}  // namespace dotsift
