#include "part/combine/twin_edges.hpp"

#include <algorithm>

namespace dotsift {

namespace {

// Share of the part's diagonal within which two places are one; below what pairs are allowed to differ by.
constexpr double same_place = 1e-7;

/// The middle of some edges, by their lengths.
Vec2 middle_of(const Part& part, const std::vector<int>& edges) {
    Vec2 sum;
    double length = 0;
    for (const int e : edges) {
        const Curve& c = part.edge(e).curve;
        for (int k = 0; k < samples_of_edge; ++k) {
            const double t = (k + 0.5) / samples_of_edge, piece = norm(c.derivative(t)) / samples_of_edge;
            sum += c.point(t) * piece;
            length += piece;
        }
    }
    return length > 0 ? sum / length : sum;
}

}  // namespace

PairMap::PairMap(const PeriodicSpec& p, const Part& part)
    : pair(p),
      first_middle(middle_of(part, part.edges_named({p.between[0]}))),
      second_middle(middle_of(part, part.edges_named({p.between[1]}))) {
    shift = second_middle - first_middle;
}

Vec2 PairMap::forth(const Vec2& p) const {
    return pair.turn ? pair.about + pair.turned(p - pair.about) : p + shift;
}

Vec2 PairMap::back(const Vec2& p) const {
    return pair.turn ? pair.about + pair.turned_back(p - pair.about) : p - shift;
}

std::vector<EdgeTwin> twin_edges(const Study& study, const Part& part) {
    std::vector<EdgeTwin> twins;
    const double tolerance = same_place * part.box.diagonal();
    for (const auto& pair : study.periodic) {
        const PairMap map(pair, part);
        for (const int a : part.edges_named({pair.between[0]})) {
            if (part.edge(a).start == part.edge(a).end) continue;
            for (const int b : part.edges_named({pair.between[1]})) {
                if (a == b) continue;
                for (const bool reversed : {false, true}) {
                    bool same = true;
                    for (int k = 0; k <= samples_of_edge && same; ++k) {
                        const double t = static_cast<double>(k) / samples_of_edge;
                        same = distance(map.forth(part.edge(a).curve.point(t)),
                                        part.edge(b).curve.point(reversed ? 1 - t : t)) <= tolerance;
                    }
                    if (!same) continue;
                    twins.push_back({a, b, reversed});
                    break;
                }
            }
        }
    }
    return twins;
}

}  // namespace dotsift
