#include "mesh/plane/division.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"
#include "mesh/length_measure.hpp"

namespace dotsift {

namespace {

bool closed(const PartEdge& edge) {
    return edge.start == edge.end;
}

std::vector<const EdgeDivision*> given_divisions(const Part& part, const DivisionDemands& demands) {
    std::vector<const EdgeDivision*> division(part.edges.size(), nullptr);
    for (const auto& g : demands.given) division[static_cast<std::size_t>(g.edge)] = &g;
    return division;
}

/// Parameters of the points demanded at one end, from the end inwards. What would take more than its share of the edge
/// is drawn together.
std::vector<double> points_at_end(const Curve& curve, const DivisionDemands& demands, int edge, bool start) {
    constexpr double most_share = 0.45;
    for (const auto& e : demands.ends) {
        if (e.edge != edge || e.at_start != start) continue;
        const double length = curve.length(), scale = std::min(1.0, most_share * length / e.distances.back());
        auto lengths = e.distances;
        for (auto& l : lengths) l = start ? l * scale : length - l * scale;
        return parameters_at_lengths(curve, lengths);
    }
    return {};
}

bool must_be_even(const DivisionDemands& demands, std::size_t edge) {
    return !demands.even.empty() && demands.even[edge];
}

}  // namespace

Vec2 middle_on_edge(const Part& part, const Segment& s) {
    const Curve& curve = part.edge(s.edge).curve;
    if (curve.straight()) return (curve.point(s.t_from) + curve.point(s.t_to)) * 0.5;
    const Vec2 a = curve.point(s.t_from), b = curve.point(s.t_to);
    double low = s.t_from, high = s.t_to;
    for (int k = 0; k < 60; ++k) {
        const double t = 0.5 * (low + high);
        const Vec2 p = curve.point(t);
        (distance(p, a) < distance(p, b) ? low : high) = t;
    }
    return curve.point(0.5 * (low + high));
}

std::vector<int> count_pieces(const Part& part, const SizeField& sizes, const DivisionDemands& demands) {
    const auto given = given_divisions(part, demands);
    std::vector<int> counts;
    for (std::size_t e = 0; e < part.edges.size(); ++e)
        counts.push_back(given[e] ? static_cast<int>(given[e]->count)
                                  : pieces_for(part.edges[e].curve, closed(part.edges[e]),
                                               measure_length(part.edges[e].curve, sizes).sum.back(),
                                               must_be_even(demands, e)));
    return counts;
}

namespace {

/// Where an edge is cut, from 0 to 1.
std::vector<double> cuts_of(const Part& part, const SizeField& sizes, const DivisionDemands& demands, std::size_t e,
                            const EdgeDivision* given) {
    const auto& edge = part.edges[e];
    std::vector<double> cuts;
    if (given) {
        if (must_be_even(demands, e) && given->count % 2 != 0) {
            Place place;
            place.position = edge.curve.point(0.5);
            throw InputError(fmt::format("{} has {} divisions, but a region of quadrilaterals alone beside it needs "
                                         "an even number",
                                         part.name_of_edge(static_cast<int>(e)), given->count),
                             place, fmt::format("use {} or {}", given->count - 1, given->count + 1));
        }
        return given_cuts(edge.curve, *given);
    }
    // Points that are demanded at the ends, and equal shares of the measure in between.
    const auto head = points_at_end(edge.curve, demands, static_cast<int>(e), true);
    auto tail = points_at_end(edge.curve, demands, static_cast<int>(e), false);
    const double t_head = head.empty() ? 0 : head.back(), t_tail = tail.empty() ? 1 : tail.back();
    const LengthMeasure m = measure_length(edge.curve, sizes);
    const double begin = sum_at(m, t_head), end = sum_at(m, t_tail);
    const int demanded = demands.counts.empty() ? 0 : demands.counts[e];
    const int count =
        demanded > 0 ? demanded : pieces_for(edge.curve, closed(edge), end - begin, must_be_even(demands, e));
    cuts.push_back(0);
    cuts.insert(cuts.end(), head.begin(), head.end());
    for (int k = 1; k < count; ++k) cuts.push_back(parameter_at(m, begin + (end - begin) * k / count));
    cuts.insert(cuts.end(), tail.rbegin(), tail.rend());
    cuts.push_back(1);
    return cuts;
}

/// Twins get the finer one's cuts; where one of them has to keep to something that the other has not, each its own.
void divide_alike(const Part& part, const DivisionDemands& demands, const std::vector<const EdgeDivision*>& given,
                  std::vector<std::vector<double>>& cuts) {
    const auto ends = [&](int e) {
        return std::count_if(demands.ends.begin(), demands.ends.end(), [&](const EdgeEnd& d) { return d.edge == e; });
    };
    for (const auto& twin : part.twins) {
        const auto a = static_cast<std::size_t>(twin.edge), b = static_cast<std::size_t>(twin.twin);
        const bool by_count = !demands.counts.empty() && demands.counts[a] != demands.counts[b];
        if (by_count || ends(twin.edge) != ends(twin.twin) || must_be_even(demands, a) != must_be_even(demands, b))
            continue;
        const bool first = given[a] || (!given[b] && cuts[a].size() >= cuts[b].size());
        cuts[first ? b : a] = cuts[first ? a : b];
        auto& taken = cuts[first ? b : a];
        if (!twin.reversed) continue;
        std::reverse(taken.begin(), taken.end());
        for (auto& t : taken) t = 1 - t;
    }
}

}  // namespace

Division divide_edges(const Part& part, const SizeField& sizes, const DivisionDemands& demands) {
    const auto given = given_divisions(part, demands);
    Division out;
    out.points = part.vertices;
    std::vector<std::vector<double>> all;
    for (std::size_t e = 0; e < part.edges.size(); ++e) all.push_back(cuts_of(part, sizes, demands, e, given[e]));
    divide_alike(part, demands, given, all);
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        const auto& edge = part.edges[e];
        const std::vector<double>& cuts = all[e];
        int previous = edge.start;
        for (std::size_t k = 1; k < cuts.size(); ++k) {
            int point = edge.end;
            if (k + 1 < cuts.size()) {
                point = static_cast<int>(out.points.size());
                out.points.push_back(edge.curve.point(cuts[k]));
            }
            out.segments.push_back({previous, point, static_cast<int>(e), cuts[k - 1], cuts[k], edge.left, edge.right});
            previous = point;
        }
    }
    return out;
}

}  // namespace dotsift
