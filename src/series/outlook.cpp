#include "series/outlook.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {

// Work grows at least like the unknowns, and for a sparse factor in the plane not much faster than their 3/2 power.
constexpr double least_growth = 1, most_growth = 1.5;
// Next adaptive meshes rarely have more than this many times the unknowns.
constexpr double boldest_forecast = 4;

}  // namespace

double seconds_of(const Level& l) {
    double s = 0;
    for (const auto& c : l.costs) s += c.seconds;
    return s;
}

double peak_bytes_of(const Level& l) {
    double peak = 0;
    for (const auto& c : l.costs) peak = std::max(peak, c.peak_bytes);
    return peak;
}

const QuantityVerdict* best_verdict(const StudyResult& result, std::size_t quantity) {
    return quantity < result.headline.size() ? &result.headline[quantity] : nullptr;
}

const Level* recommended_level(const Study& study, const StudyResult& result) {
    std::vector<std::pair<std::size_t, const QuantityVerdict*>> wanted;
    for (std::size_t q = 0; q < study.quantities.size(); ++q) {
        const auto* v = best_verdict(result, q);
        if (!v || !v->has_target) continue;
        if (v->verdict != Verdict::met) return nullptr;
        wanted.emplace_back(q, v);
    }
    if (wanted.empty()) return nullptr;
    const Level* best = nullptr;
    for (const auto& s : result.series)
        for (const auto& l : s.levels) {
            if (best && l.unknowns >= best->unknowns) continue;
            const bool enough = std::all_of(wanted.begin(), wanted.end(), [&](const auto& w) {
                const Interval& known = w.second->interval;
                return std::fabs(l.quantities[w.first].value - known.value) + known.half_width <=
                       study.quantities[w.first].target->allowed(known.value);
            });
            if (enough) best = &l;
        }
    return best;
}

std::optional<NextLevel> next_level(const SeriesSpec& spec, const SeriesResult& series) {
    if (series.levels.size() < 2) return {};
    const Level &last = series.levels.back(), &before = series.levels[series.levels.size() - 2];
    const double have = static_cast<double>(last.unknowns),
                 grown = have / static_cast<double>(std::max<std::int64_t>(before.unknowns, 1));
    if (!(grown > 1)) return {};
    NextLevel next;
    const double growth =
        spec.kind == SeriesKind::uniform ? spec.ratio * spec.ratio : std::min(grown, boldest_forecast);
    next.unknowns = growth * have;
    const double now = seconds_of(last), then = seconds_of(before);
    const double power =
        now > 0 && then > 0 ? std::clamp(std::log(now / then) / std::log(grown), least_growth, most_growth) : 1;
    next.seconds = now * std::pow(growth, power);
    for (const auto& v : series.verdicts) {
        const Convergence& c = v.convergence;
        const double order = std::isfinite(c.used_order) ? c.used_order : c.expected_order;
        next.half_widths.push_back(v.interval.relative() *
                                   std::pow(growth, -order / dimension_of(topology_of(series.levels.back()))));
    }
    return next;
}

}  // namespace dotsift
