#include "series/stop_rules.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "series/driving_error.hpp"

namespace dotsift {

namespace {

// Evidence needs three levels: an order cannot be seen with fewer.
constexpr std::size_t levels_for_evidence = 3;
// An error that falls by less than this share over two levels does not fall.
constexpr double least_progress = 0.05;
// A budget is used up where this share of it is.
constexpr double budget_share = 0.85;

/// Largest relative change from the level before, over the quantities that have a target (or all, if none has).
double largest_change(const Study& study, const Level& before, const Level& now) {
    const bool any = std::any_of(study.quantities.begin(), study.quantities.end(),
                                 [](const auto& q) { return q.target.has_value(); });
    double largest = 0;
    for (std::size_t i = 0; i < study.quantities.size(); ++i) {
        if (any && !study.quantities[i].target) continue;
        const double a = before.quantities[i].value, b = now.quantities[i].value;
        if (std::fabs(b - a) <= rounding_share * std::max({std::fabs(a), std::fabs(b), now.quantities[i].scale}))
            continue;
        largest = std::max(largest, b != 0 ? std::fabs(b - a) / std::fabs(b) : INFINITY);
    }
    return largest;
}

/// Largest grid convergence index of the same quantities; infinite if one of them has none, or no limit.
double largest_gci(const std::vector<QuantityVerdict>& verdicts) {
    const bool any = std::any_of(verdicts.begin(), verdicts.end(), [](const auto& v) { return v.has_target; });
    double largest = 0;
    for (const auto& v : verdicts) {
        const Convergence& c = v.convergence;
        if (any && !v.has_target) continue;
        if (v.verdict != Verdict::unbounded && (c.behaviour == Behaviour::settled || c.change == 0)) continue;
        largest = std::max(largest, v.verdict != Verdict::unbounded && c.gci_fine >= 0 ? c.gci_fine : INFINITY);
    }
    return largest;
}

bool quantities_met(const std::vector<QuantityVerdict>& verdicts) {
    return std::all_of(verdicts.begin(), verdicts.end(), [](const QuantityVerdict& v) {
        // What has no limit never meets its target: nothing is to be waited for.
        return !v.has_target || v.verdict == Verdict::met || v.verdict == Verdict::unbounded;
    });
}

/// An adaptive series whose estimated error has not fallen over two levels by more than meshes scatter, although it was
/// to: more of the same brings nothing.
std::optional<std::string> no_longer_falls(const Study& study, const SeriesSpec& spec, const SeriesResult& done) {
    const std::size_t n = done.levels.size();
    if (spec.kind != SeriesKind::adaptive || n < levels_for_evidence + 1) return {};
    const double now = estimated_error(study, spec, done.levels[n - 1]),
                 before = estimated_error(study, spec, done.levels[n - 2]),
                 then = estimated_error(study, spec, done.levels[n - 3]);
    if (!(then > 0) || std::min(now, before) < (1 - least_progress) * then) return {};
    return fmt::format(
        "an estimated error that no longer falls: {}, {}, {} on the last three levels; smallest or most sizes, or "
        "regions outside of `within`, may hold the mesh as it is",
        percent(then), percent(before), percent(now));
}

std::optional<std::string> limit_reached(const SeriesSpec& spec, const SeriesResult& done, double seconds) {
    const Level& last = done.levels.back();
    if (done.levels.size() >= static_cast<std::size_t>(spec.most_levels))
        return fmt::format("the limit of {} levels", spec.most_levels);
    if (spec.most_unknowns && last.unknowns >= *spec.most_unknowns)
        return fmt::format("the limit of {} unknowns: the last level has {}", grouped(*spec.most_unknowns),
                           grouped(last.unknowns));
    if (spec.most_seconds && seconds >= *spec.most_seconds)
        return fmt::format("the limit of {:g} seconds", *spec.most_seconds);
    if (spec.most_memory) {
        double peak = 0;
        for (const auto& c : last.costs) peak = std::max(peak, c.peak_bytes);
        if (peak >= *spec.most_memory)
            return fmt::format("the limit of {:.3g} GB: the last level took {:.3g} GB", *spec.most_memory / 1e9,
                               peak / 1e9);
    }
    return {};
}

}  // namespace

bool has_target(const SeriesSpec& s) {
    return s.error_target || s.change_target || s.gci_target || s.until_quantities;
}

std::optional<Stop> stop_after(const Study& study, const SeriesSpec& spec, const SeriesResult& done, double seconds,
                               bool nothing_left, const SingularPoints& singular) {
    const Level& last = done.levels.back();
    const std::size_t n = done.levels.size();
    const double change = n > 1 ? largest_change(study, done.levels[n - 2], last) : INFINITY;
    const double error = estimated_error(study, spec, last);
    const bool error_met = spec.error_target && error <= *spec.error_target;
    const bool change_met = spec.change_target && change <= *spec.change_target;
    const bool judged = n >= levels_for_evidence && (spec.gci_target || spec.until_quantities);
    const auto verdicts = judged ? judge(study, done, singular) : std::vector<QuantityVerdict>();
    const double gci = judged ? largest_gci(verdicts) : INFINITY;
    const bool gci_met = spec.gci_target && gci <= *spec.gci_target;
    const bool known = judged && spec.until_quantities && quantities_met(verdicts);
    const bool met = !has_target(spec) || (spec.until_quantities ? known : error_met || change_met || gci_met);
    if (n >= levels_for_evidence && spec.until_quantities) {
        // Whatever else is set: this is what the series is for.
        if (known) return Stop{"the targets of all quantities"};
    } else if (n >= levels_for_evidence) {
        if (error_met)
            return Stop{
                fmt::format("the error target: estimated {} of {}", percent(error), percent(*spec.error_target)), true,
                true};
        if (change_met)
            return Stop{fmt::format("the change target: {} of {}", percent(change), percent(*spec.change_target)), true,
                        true};
        if (gci_met)
            return Stop{fmt::format("the target of the grid convergence index: {} of {}", percent(gci),
                                    percent(*spec.gci_target)),
                        true, true};
    }
    if (n >= levels_for_evidence) {
        const bool used = (spec.budget_elements && static_cast<double>(last.mesh.elements) >=
                                                       budget_share * static_cast<double>(*spec.budget_elements)) ||
                          (spec.budget_unknowns && static_cast<double>(last.unknowns) >=
                                                       budget_share * static_cast<double>(*spec.budget_unknowns));
        if (used)
            return Stop{spec.budget_elements ? fmt::format("the budget of {} elements", grouped(*spec.budget_elements))
                                             : fmt::format("the budget of {} unknowns", grouped(*spec.budget_unknowns)),
                        !has_target(spec)};
    }
    if (const auto stuck = no_longer_falls(study, spec, done)) return Stop{*stuck, !has_target(spec)};
    // The next mesh would be the same for ever.
    if (nothing_left && spec.drive == std::vector{of_energy} &&
        std::any_of(spec.indicators.begin(), spec.indicators.end(), is_of_field))
        return Stop{fmt::format("a field {} that shows nothing in any element: nothing is left to be refined",
                                name_of(spec.indicator_field)),
                    met};
    if (nothing_left) return Stop{"an estimated error of zero: nothing is left to be refined"};
    if (const auto limit = limit_reached(spec, done, seconds)) return Stop{*limit, met};
    return {};
}

}  // namespace dotsift
