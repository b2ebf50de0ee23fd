#include "statistics/interval.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <initializer_list>
#include <limits>
#include <numbers>

namespace dotsift {

namespace {

/// How many times its evidence an interval is wide. Chosen on one half of a battery with known answers, so that about
/// 95 % of the truths lie inside; docs/verification.md, "Intervals", has the figures of the other half.
struct Factors {
    double steady;    ///< of series whose meshes become finer everywhere alike, or where their rules say
    double adaptive;  ///< whose meshes change from level to level
};
constexpr Factors displacements{2.2, 2.2}, totals{0.6, 0.6}, formulas{2.5, 2.5};
// Means of the derivatives of elements of degree 1 converge more steadily than those of degree 2.
constexpr Factors means_linear{1.25, 1.85}, means_quadratic{2, 2.75};
// The fits round a place scatter more in triangles.
constexpr Factors points_triangles{2.1, 2.65}, points_quadrilaterals{1.25, 1.25}, peaks_triangles{2.1, 3.25},
    peaks_quadrilaterals{1.6, 1.7};
// How much of the spread of neighbouring fits counts as evidence.
constexpr double spread_of_points = 0.6, spread_of_peaks = 0.5;

double factor_of(const QuantityEvidence& e) {
    const auto by_kind = [&](const Factors& f) { return e.kind == SeriesKind::adaptive ? f.adaptive : f.steady; };
    const auto by_shape = [&](const Factors& triangles, const Factors& quadrilaterals) {
        return by_kind(triangles) + e.quadrilaterals * (by_kind(quadrilaterals) - by_kind(triangles));
    };
    switch (e.measure) {
        case QuantityKind::displacement:
            return by_kind(displacements);
        case QuantityKind::local:
            return by_shape(points_triangles, points_quadrilaterals);
        case QuantityKind::peak:
            return by_shape(peaks_triangles, peaks_quadrilaterals);
        case QuantityKind::mean:
            return by_kind(e.degree == 1 ? means_linear : means_quadratic);
        case QuantityKind::total:
            return by_kind(totals);
        case QuantityKind::unknown:
            break;
    }
    return by_kind(formulas);
}

double share_of_spread(QuantityKind kind) {
    if (kind == QuantityKind::local) return spread_of_points;
    return kind == QuantityKind::peak ? spread_of_peaks : 0;
}

// With one or two levels, for totals and for means that have a dual problem.
constexpr double few_levels_total = 1.05, few_levels_mean_linear = 1.5, few_levels_mean_quadratic = 4;
// Of the squared relative error in the energy norm, where a series made only some sizes finer.
constexpr double partial_total = 1.5, partial_other = 3;
// Of the error that no estimate of the fields sees.
constexpr double unseen_factor = 1;
// Where it fell to less than this share over the last three levels, their changes show it.
constexpr double unseen_falls = 0.7;
// An observed order below this share of the expected one is believed; above, it may be an accident of the meshes.
constexpr double slow_share = 0.5;
constexpr double least_believed_order = 0.05;
// Of the share (r^p - 1) / (r^p + 1) that a change between sizes of ratio r has in the values' scatter; totals hardly
// scatter.
constexpr double scatter_power = 0.25;

// Of Richardson's extrapolation itself: what converges as expected is held in any case.
constexpr double least_of_extrapolation = 1.05;

/// Root of the sum of squares.
double together(std::initializer_list<double> parts) {
    double sum = 0;
    for (const double p : parts) sum += std::isfinite(p) ? p * p : 0;
    return std::sqrt(sum);
}

/// The order by which the changes are turned into errors.
double trusted_order(QuantityKind kind, const Convergence& c) {
    const double slow = slow_share * c.expected_order;
    if (c.behaviour != Behaviour::monotone || !(c.observed_order < slow)) return c.expected_order;
    // Values at single places scatter with the mesh: there two orders in a row have to say so.
    const bool scatters = kind == QuantityKind::local || kind == QuantityKind::peak;
    if (scatters && !(c.earlier_order < slow)) return c.expected_order;
    return std::max(c.observed_order, least_believed_order);
}

/// Errors of the finest value that the last two changes show by Richardson's extrapolation, which makes much of little
/// where sizes hardly differ: there a change is more the meshes' scatter than their size's, and counts less.
struct ByChanges {
    double last, earlier;
};
ByChanges by_changes(const std::vector<LevelValue>& levels, double p, double power) {
    const LevelValue &fine = levels.back(), &middle = levels[levels.size() - 2], &coarse = levels[levels.size() - 3];
    const double r21 = std::pow(middle.h / fine.h, p), r32 = std::pow(coarse.h / middle.h, p);
    const auto share = [&](double r) { return std::pow((r - 1) / (r + 1), power); };
    return {share(r21) * std::fabs(middle.value - fine.value) / (r21 - 1),
            share(r32) * std::fabs(coarse.value - middle.value) / (r32 - 1) / r21};
}

double size_of(const QuantityEvidence& e, const Convergence& c) {
    return std::max(std::fabs(c.finest), e.terms);
}

/// The error that the energy norm's estimate makes likely: totals have the square of its relative error.
double by_energy(const QuantityEvidence& e, const Convergence& c) {
    if (e.estimated_errors.empty()) return 0;
    const double relative = e.estimated_errors.back();
    return relative * relative * size_of(e, c);
}

/// The relative error that neither the estimates nor the levels' changes see.
double unseen_of(const QuantityEvidence& e, const Convergence& c) {
    const auto& u = e.unseen_errors;
    if (u.empty()) return 0;
    const bool by_changes_of_all = c.levels >= 3 && u.size() >= 3 && e.kind != SeriesKind::local &&
                                   c.behaviour != Behaviour::settled && c.behaviour != Behaviour::diverging;
    return by_changes_of_all && u.back() <= unseen_falls * u[u.size() - 3] ? 0 : u.back();
}

/// One or two levels, or changes that grow.
Interval without_order(const QuantityEvidence& e, const Convergence& c) {
    const auto dual = e.own_dual_error();
    const bool grows = c.behaviour == Behaviour::diverging;
    if (grows && dual)
        return {c.finest, cautious_safety_factor * std::fabs(*dual),
                fmt::format("{:g} times the error that the dual problem estimates, since the changes grow",
                            cautious_safety_factor)};
    if (grows) return {c.finest, NAN, "the changes do not shrink: no uncertainty can be given"};
    if (e.kind != SeriesKind::local && e.measure == QuantityKind::total && !e.estimated_errors.empty())
        return {c.finest, few_levels_total * together({dual.value_or(0), by_energy(e, c)}),
                dual ? "the dual problem's estimate and the squared error in the energy norm"
                     : "the squared error in the energy norm"};
    const double few_levels_mean = e.degree == 1 ? few_levels_mean_linear : few_levels_mean_quadratic;
    if (e.measure == QuantityKind::mean && dual)
        return {c.finest, few_levels_mean * std::fabs(*dual),
                fmt::format("{:g} times the error that the dual problem estimates", few_levels_mean)};
    return {c.finest, NAN,
            c.levels == 2 ? "two levels show a change, but no order and no uncertainty"
                          : "one level says nothing about the error"};
}

Interval by_levels(const QuantityEvidence& e, const Convergence& c) {
    const double factor = factor_of(e);
    const double p = trusted_order(e.measure, c);
    const ByChanges changes = by_changes(e.levels, p, e.measure == QuantityKind::total ? 0 : scatter_power);
    const bool integral = e.measure == QuantityKind::mean || e.measure == QuantityKind::total;
    const double dual = integral ? e.own_dual_error().value_or(0) : 0, spread = share_of_spread(e.measure) * e.spread,
                 energy = e.measure == QuantityKind::total ? by_energy(e, c) : 0;
    const double extrapolated = least_of_extrapolation * by_changes(e.levels, p, 0).last;
    double half = factor * together({changes.last, changes.earlier, dual, spread, energy});
    std::string rule = fmt::format("{:.3g} times what the last two changes show together with order {:.3g}{}", factor,
                                   p, p == c.expected_order ? "" : ", the observed one");
    if (dual != 0) rule += ", the dual problem's estimate";
    if (energy > 0) rule += ", the squared error in the energy norm";
    if (spread > 0) rule += ", how far the fits round the place differ";
    if (extrapolated > half) {
        half = extrapolated;
        rule = fmt::format("{:g} times what the last change shows by Richardson's extrapolation with order {:.3g}{}",
                           least_of_extrapolation, p, p == c.expected_order ? "" : ", the observed one");
    }
    if (e.kind == SeriesKind::local && !e.estimated_errors.empty()) {
        half = together({half, (e.measure == QuantityKind::total ? partial_total : partial_other) * by_energy(e, c)});
        rule += "; and the error in the energy norm, since only some sizes became finer";
    }
    return {c.finest, half, std::move(rule)};
}

/// Of values whose method is not known: neither is the order that could be trusted, nor what else there is to know.
/// Roache's factor of three; where the values do not shrink steadily, three times their scatter at least.
Interval by_guess(const QuantityEvidence& e, const Convergence& c) {
    if (c.levels < 3 || c.behaviour == Behaviour::diverging)
        return {c.finest, NAN, c.levels < 3 ? "fewer than three levels" : "the changes do not shrink", false};
    const bool steady = c.behaviour == Behaviour::monotone;
    const double p = steady ? std::clamp(c.observed_order, least_believed_order, c.expected_order) : c.expected_order;
    const ByChanges changes = by_changes(e.levels, p, 0);
    double half = cautious_safety_factor * std::max(changes.last, changes.earlier);
    const auto n = e.levels.size();
    const double e21 = e.levels[n - 1].value - e.levels[n - 2].value,
                 e32 = e.levels[n - 2].value - e.levels[n - 3].value;
    if (!steady) half = std::max(half, cautious_safety_factor * together({e21, e32}) / std::numbers::sqrt2);
    return {c.finest, half,
            fmt::format("{:g} times the larger error that the last two changes show with order {:.3g}{}; without a "
                        "promise, since the order of the method is not known (--order)",
                        cautious_safety_factor, p, steady ? "" : ", or their scatter"),
            false};
}

}  // namespace

QuantityKind kind_of_quantity(const QuantitySpec& q) {
    if (q.formula) return QuantityKind::unknown;
    if (is_energy(q.field) || is_reaction(q.field)) return QuantityKind::total;
    if (is_section(q.field) || q.field == Field::turn || q.take == Take::mean || q.take == Take::integral ||
        q.take == Take::membrane || q.take == Take::linearised)
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

Interval interval_of(const QuantityEvidence& e, const Convergence& c) {
    Interval interval;
    if (c.behaviour == Behaviour::settled) {
        const auto n = e.levels.size();
        interval = {c.finest,
                    usual_safety_factor * std::max(std::fabs(e.levels[n - 1].value - e.levels[n - 2].value),
                                                   std::fabs(e.levels[n - 2].value - e.levels[n - 3].value)) +
                        rounding_of(e.levels, e.terms),
                    "the last changes are rounding"};
    } else if (!e.order_known) {
        interval = by_guess(e, c);
    } else if (c.levels < 3 || c.behaviour == Behaviour::diverging) {
        interval = without_order(e, c);
    } else {
        interval = by_levels(e, c);
    }
    if (const double unseen = unseen_factor * unseen_of(e, c) * size_of(e, c); unseen > 0 && interval.known()) {
        if (unseen > interval.half_width)
            interval.rule +=
                "; mostly the error of the mesh's geometry and of prescribed values, which no estimate sees";
        interval.half_width = together({interval.half_width, unseen});
    }
    return interval;
}

}  // namespace dotsift
