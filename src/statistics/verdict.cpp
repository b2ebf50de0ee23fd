#include "statistics/verdict.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"

namespace dotsift {

const char* name_of(Verdict v) {
    switch (v) {
        case Verdict::met:
            return "met";
        case Verdict::missed:
            return "missed";
        case Verdict::no_target:
            return "no target";
        case Verdict::undecided:
            return "undecided";
        case Verdict::unbounded:
            return "does not converge";
    }
    return "";
}

std::string shown_target(const QuantityTarget& target, const std::string& unit) {
    if (!target.absolute) return percent(target.value);
    return sensible(target.value, 3) + (unit.empty() ? "" : " " + unit);
}

double expected_order(const QuantitySpec& q, int degree, double least_exponent) {
    double order = degree + 1;  // displacements; recovered stresses where they superconverge
    if (!q.formula && (q.field == Field::strain_energy || is_reaction(q.field))) order = 2 * degree;
    // The error of a linear quantity is the product of those of the solution and of its dual, both with the exponent.
    return least_exponent > 0 && least_exponent < 1 ? std::min(order, 2 * least_exponent) : order;
}

QuantityVerdict judge_quantity(const QuantitySpec& q, const QuantityEvidence& evidence) {
    QuantityVerdict v;
    v.quantity = q.name;
    v.series = evidence.series;
    v.has_target = q.target.has_value();
    v.convergence = judge_convergence(evidence.levels, evidence.expected_order, evidence.terms);
    v.interval = interval_of(evidence.levels, v.convergence, evidence.own_dual_error(), evidence.terms);
    const Convergence& c = v.convergence;
    const double relative = v.interval.relative();
    const bool known = v.interval.known();
    v.verdict = !known                                                 ? Verdict::undecided
                : !q.target                                            ? Verdict::no_target
                : v.interval.half_width <= q.target->allowed(c.finest) ? Verdict::met
                                                                       : Verdict::missed;

    const std::string of_unit = evidence.unit.empty() ? "" : " " + evidence.unit;
    if (!evidence.unbounded.empty()) {
        v.verdict = Verdict::unbounded;
        v.interval.half_width = v.convergence.extrapolated = NAN;
        v.interval.rule = "none: the exact value is infinite";
        v.sentence = fmt::format(
            "{} = {}{} on the finest mesh, but it does not converge: {}{}", q.name, sensible(c.finest, 4), of_unit,
            evidence.unbounded,
            q.target ? fmt::format(". The target of {} cannot be met.", shown_target(*q.target, evidence.unit)) : ".");
        return v;
    }
    std::string s = fmt::format("{} = {}{}", q.name,
                                std::fabs(c.finest) <= rounding_share * evidence.terms
                                    ? "0"
                                    : with_uncertainty(c.finest, v.interval.half_width),
                                of_unit);
    const std::string band = known ? " ± " + percent(relative) : "";
    switch (c.behaviour) {
        case Behaviour::too_few:
            s += fmt::format("{} on {}: {}", band, c.levels == 1 ? "one level" : "two levels", v.interval.rule);
            break;
        case Behaviour::diverging:
            s += fmt::format(
                "{}, but it does not converge: it changes by {} on the last level, and not less than before", band,
                percent(c.change));
            break;
        case Behaviour::oscillating:
            s += fmt::format("{} (95 %; oscillating over the last three of {} levels)", band, c.levels);
            break;
        case Behaviour::scattered:
            s += fmt::format("{} (95 %; {} levels, scattered within mesh noise)", band, c.levels);
            break;
        case Behaviour::settled:
            s += ", no longer changing";
            break;
        case Behaviour::monotone:
            s += fmt::format("{} (95 %; {} levels, observed order {}, expected {:.3g}{})", band, c.levels,
                             std::isfinite(c.observed_order) ? fmt::format("{:.2f}", c.observed_order) : "-",
                             c.expected_order, c.asymptotic ? ", in the asymptotic range" : "");
            break;
    }
    switch (v.verdict) {
        case Verdict::met:
            s += fmt::format("; the target of {} is met.", shown_target(*q.target, evidence.unit));
            break;
        case Verdict::missed:
            s += fmt::format("; the target of {} is missed.", shown_target(*q.target, evidence.unit));
            break;
        case Verdict::no_target:
            s += "; no target was set.";
            break;
        case Verdict::undecided:
        case Verdict::unbounded:
            s += q.target
                     ? fmt::format("; the target of {} is not shown to be met.", shown_target(*q.target, evidence.unit))
                     : ".";
            break;
    }
    v.sentence = evidence.caution.empty() ? s : s + " " + evidence.caution;
    return v;
}

}  // namespace dotsift
