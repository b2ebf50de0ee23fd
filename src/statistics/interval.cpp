#include "statistics/interval.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace dotsift {

namespace {

constexpr double nan = std::numeric_limits<double>::quiet_NaN();

Interval by_levels(const std::vector<LevelValue>& levels, const Convergence& c, double terms) {
    if (c.levels < 3)
        return {c.finest, nan,
                c.levels == 2 ? "two levels show a change, but no order and no uncertainty"
                              : "one level says nothing about the error"};
    const LevelValue &fine = levels.back(), &middle = levels[levels.size() - 2], &coarse = levels[levels.size() - 3];
    const double e21 = std::fabs(middle.value - fine.value), e32 = std::fabs(coarse.value - middle.value);
    if (c.behaviour == Behaviour::settled)
        return {c.finest, usual_safety_factor * std::max(e21, e32) + rounding_of(levels, terms),
                "the last changes are rounding"};
    if (c.behaviour == Behaviour::diverging)
        return {c.finest, nan, "the changes do not shrink: no uncertainty can be given"};
    const bool monotone = c.behaviour == Behaviour::monotone;
    const double p = monotone ? c.used_order : c.expected_order,
                 factor = monotone ? usual_safety_factor : cautious_safety_factor;
    const double r21 = std::pow(middle.h / fine.h, p), r32 = std::pow(coarse.h / middle.h, p);
    const double by_last = e21 / (r21 - 1), by_earlier = e32 / (r32 - 1) / r21;
    std::string rule = monotone ? fmt::format("{:g} times the error that the last {} with order {:.3g}", factor,
                                              p == c.observed_order   ? "two changes show"
                                              : by_last >= by_earlier ? "change shows"
                                                                      : "but one change shows",
                                              p)
                                : fmt::format(
                                      "the changes {}: not extrapolated; {:g} times the larger error that the "
                                      "last two changes show with the expected order {:.3g}",
                                      c.behaviour == Behaviour::oscillating ? "oscillate" : "scatter", factor, p);
    return {c.finest, factor * std::max(by_last, by_earlier), std::move(rule)};
}

}  // namespace

QuantityKind kind_of_quantity(const QuantitySpec& q) {
    if (q.formula) return QuantityKind::unknown;
    if (q.field == Field::strain_energy || is_reaction(q.field)) return QuantityKind::total;
    if (is_section(q.field) || q.take == Take::mean || q.take == Take::integral || q.take == Take::membrane ||
        q.take == Take::linearised)
        return QuantityKind::mean;
    if (dimension_of(q.field) == dimension::length || q.field == Field::potential) return QuantityKind::displacement;
    return q.take == Take::value ? QuantityKind::local : QuantityKind::peak;
}

const char* name_of(QuantityKind kind) {
    constexpr std::array names{"displacement", "local", "peak", "mean", "total", "unknown"};
    return names[static_cast<std::size_t>(kind)];
}

bool Interval::known() const {
    return std::isfinite(half_width);
}

double Interval::relative() const {
    return value != 0 ? half_width / std::fabs(value) : half_width;
}

namespace {

/// Of values whose method is not known: neither is the order that could be trusted. Three times the error that the
/// last changes show with the lower one of the observed and the assumed order; nothing is promised.
Interval by_guess(const QuantityEvidence& evidence, const Convergence& c) {
    Interval interval = by_levels(evidence.levels, c, evidence.terms);
    interval.promised = false;
    if (!interval.known() || c.behaviour == Behaviour::settled) return interval;
    if (c.behaviour == Behaviour::monotone) interval.half_width *= cautious_safety_factor / usual_safety_factor;
    interval.rule += "; widened, and without a promise, since the order of the method is not known (--order)";
    return interval;
}

}  // namespace

Interval interval_of(const QuantityEvidence& evidence, const Convergence& c) {
    if (!evidence.order_known) return by_guess(evidence, c);
    Interval interval = by_levels(evidence.levels, c, evidence.terms);
    const auto dual_error = evidence.own_dual_error();
    if (!dual_error || !std::isfinite(*dual_error)) return interval;
    const double error = std::fabs(*dual_error);
    if (!interval.known()) {
        interval.half_width = dual_safety_factor * error;
        interval.rule =
            fmt::format("{:g} times the error that the dual problem estimates, since {}", dual_safety_factor,
                        c.levels < 3 ? "three levels are needed for anything else" : "the changes grow");
    } else if (error > interval.half_width) {
        interval.half_width = error;
        interval.rule = "the error that the dual problem estimates, which is more than the levels show";
    }
    return interval;
}

}  // namespace dotsift
