#include "mesh/division.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"

namespace dotsift {

namespace {

/// The running integral of ds/h along a curve, as a table of (t, integral).
struct LengthMeasure {
    std::vector<double> t, sum;
};

LengthMeasure measure(const Curve& curve, const SizeField& sizes) {
    // Simpson's rule on intervals that are halved until the size changes little within each: a size source can be much
    // shorter than the edge.
    struct Interval {
        double a, b, fa, fm, fb;
    };
    const auto density = [&](double t) { return norm(curve.derivative(t)) / sizes.at(curve.point(t)); };
    LengthMeasure m;
    m.t.push_back(0);
    m.sum.push_back(0);
    constexpr int pieces = 8;
    constexpr int deepest = 24;
    for (int k = 0; k < pieces; ++k) {
        std::vector<std::pair<Interval, int>> open;
        const double a = static_cast<double>(k) / pieces, b = static_cast<double>(k + 1) / pieces;
        open.push_back({{a, b, density(a), density((a + b) / 2), density(b)}, 0});
        while (!open.empty()) {
            const auto [i, depth] = open.back();
            open.pop_back();
            const double m1 = (3 * i.a + i.b) / 4, m2 = (i.a + 3 * i.b) / 4, mid = (i.a + i.b) / 2;
            const double f1 = density(m1), f2 = density(m2), l = i.b - i.a;
            const double coarse = l / 6 * (i.fa + 4 * i.fm + i.fb);
            const double fine = l / 12 * (i.fa + 4 * f1 + 2 * i.fm + 4 * f2 + i.fb);
            // A hundredth of an element is enough; a linear interpolation inside an interval must be good, too.
            if ((std::fabs(fine - coarse) > 0.01 || fine > 0.5) && depth < deepest) {
                open.push_back({{mid, i.b, i.fm, f2, i.fb}, depth + 1});
                open.push_back({{i.a, mid, i.fa, f1, i.fm}, depth + 1});
            } else {
                m.t.push_back(i.b);
                m.sum.push_back(m.sum.back() + fine);
            }
        }
    }
    return m;
}

int count_for(const PartEdge& edge, double total, bool even) {
    int count = std::max(1, static_cast<int>(std::lround(total)));
    count = std::max(count, static_cast<int>(std::ceil(edge.curve.turning() / (std::numbers::pi / 4) - 1e-9)));
    if (edge.start == edge.end) count = std::max(count, 3);
    if (even) count = std::max(2, 2 * static_cast<int>(std::lround(total / 2)));
    if (even && edge.start == edge.end) count = std::max(count, 6);  // three pairs
    return count;
}

/// Parameters that cut a curve into pieces that have equal shares of the measure, from 0 to 1.
std::vector<double> cut_by_size(const LengthMeasure& m, int count) {
    const double total = m.sum.back();
    std::vector<double> cuts{0};
    std::size_t at = 1;
    for (int k = 1; k < count; ++k) {
        const double wanted = total * k / count;
        while (at + 1 < m.sum.size() && m.sum[at] < wanted) ++at;
        const double share = (wanted - m.sum[at - 1]) / (m.sum[at] - m.sum[at - 1]);
        cuts.push_back(m.t[at - 1] + (m.t[at] - m.t[at - 1]) * share);
    }
    cuts.push_back(1);
    return cuts;
}

/// Parameters at given shares of a curve's length.
std::vector<double> cut_by_length(const Curve& curve, const std::vector<double>& shares) {
    // Equal sizes everywhere measure the length; fine enough for the interpolation in between.
    const double fine = curve.length() / (64 * static_cast<double>(shares.size()));
    const LengthMeasure m = measure(curve, SizeField(fine, 1, fine, {}));
    std::vector<double> cuts;
    std::size_t at = 1;
    for (const double share : shares) {
        const double wanted = m.sum.back() * share;
        while (at + 1 < m.sum.size() && m.sum[at] < wanted) ++at;
        cuts.push_back(m.t[at - 1] + (m.t[at] - m.t[at - 1]) * (wanted - m.sum[at - 1]) / (m.sum[at] - m.sum[at - 1]));
    }
    cuts.front() = 0;
    cuts.back() = 1;
    return cuts;
}

std::vector<const EdgeDivision*> given_divisions(const Part& part, const DivisionDemands& demands) {
    std::vector<const EdgeDivision*> division(part.edges.size(), nullptr);
    for (const auto& g : demands.given) division[static_cast<std::size_t>(g.edge)] = &g;
    return division;
}

bool must_be_even(const DivisionDemands& demands, std::size_t edge) {
    return !demands.even.empty() && demands.even[edge];
}

}  // namespace

std::vector<int> count_pieces(const Part& part, const SizeField& sizes, const DivisionDemands& demands) {
    const auto given = given_divisions(part, demands);
    std::vector<int> counts;
    for (std::size_t e = 0; e < part.edges.size(); ++e)
        counts.push_back(given[e] ? static_cast<int>(given[e]->count)
                                  : count_for(part.edges[e], measure(part.edges[e].curve, sizes).sum.back(),
                                              must_be_even(demands, e)));
    return counts;
}

Division divide_edges(const Part& part, const SizeField& sizes, const DivisionDemands& demands) {
    const auto given = given_divisions(part, demands);
    Division out;
    out.points = part.vertices;
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        const auto& edge = part.edges[e];
        std::vector<double> cuts;
        if (given[e]) {
            if (must_be_even(demands, e) && given[e]->count % 2 != 0) {
                Place place;
                place.position = edge.curve.point(0.5);
                throw InputError(
                    fmt::format("{} has {} divisions, but a region of quadrilaterals alone beside it needs "
                                "an even number",
                                part.name_of_edge(static_cast<int>(e)), given[e]->count),
                    place, fmt::format("use {} or {}", given[e]->count - 1, given[e]->count + 1));
            }
            cuts = cut_by_length(edge.curve, given[e]->shares());
        } else {
            const LengthMeasure m = measure(edge.curve, sizes);
            const int demanded = demands.counts.empty() ? 0 : demands.counts[e];
            cuts = cut_by_size(m, demanded > 0 ? demanded : count_for(edge, m.sum.back(), must_be_even(demands, e)));
        }
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
