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
    if (!q.formula && (is_energy(q.field) || is_reaction(q.field))) order = 2 * degree;
    // The error of a linear quantity is the product of those of the solution and of its dual, both with the exponent.
    return least_exponent > 0 && least_exponent < 1 ? std::min(order, 2 * least_exponent) : order;
}

double graded_order(const QuantitySpec& q, int degree, double least_exponent, bool solid) {
    // Towards points the sizes may fall as fast as one likes. Along an edge elements that are as long as they are wide
    // become many: the error of the energy norm falls with their number to the power of the exponent, which is three
    // times that of their size.
    const double order = expected_order(q, degree);
    return solid && least_exponent < 1 ? std::min(order, 6 * least_exponent) : order;
}

namespace {

std::string with_unit(const std::string& number, const std::string& unit) {
    return unit.empty() ? number : number + " " + unit;
}

/// What the values do, as it follows the number.
std::string behaviour_in_words(const QuantityVerdict& v) {
    const Convergence& c = v.convergence;
    const char* sure = v.interval.promised ? "95 %" : "not promised: the formal order is not known";
    switch (c.behaviour) {
        case Behaviour::too_few:
            return fmt::format(" on {}: {}", c.levels == 1 ? "one level" : "two levels", v.interval.rule);
        case Behaviour::diverging:
            return fmt::format(
                ", but it does not converge: it changes by {} on the last level, and not less than before",
                percent(c.change));
        case Behaviour::oscillating:
            return fmt::format(" ({}; oscillating over the last three of {} levels)", sure, c.levels);
        case Behaviour::scattered:
            return fmt::format(" ({}; {} levels, scattered within mesh noise)", sure, c.levels);
        case Behaviour::settled:
            return ", no longer changing: the levels differ by rounding only";
        case Behaviour::monotone:
            return fmt::format(" ({}; {} levels, observed order {}, expected {:.3g}{})", sure, c.levels,
                               std::isfinite(c.observed_order) ? fmt::format("{:.2f}", c.observed_order) : "-",
                               c.expected_order, c.asymptotic ? ", in the asymptotic range" : "");
    }
    return "";
}

std::string target_in_words(const QuantitySpec& q, const QuantityVerdict& v) {
    if (!q.target) return v.verdict == Verdict::no_target ? "; no target was set." : ".";
    const std::string target = shown_target(*q.target, v.unit);
    switch (v.verdict) {
        case Verdict::met:
            return fmt::format("; the target of {} is met.", target);
        case Verdict::missed:
            if (!q.target->absolute && v.near_zero())
                return fmt::format(
                    "; the target of {} is a share of a value that cannot be told from zero: give one with a unit, as "
                    "in target = \"{}\".",
                    target, with_unit(sensible(2 * v.interval.half_width, 1), v.unit));
            return fmt::format("; the target of {} is missed.", target);
        default:
            return fmt::format("; the target of {} is not shown to be met.", target);
    }
}

}  // namespace

bool QuantityVerdict::near_zero() const {
    return std::fabs(convergence.finest) <= std::max(interval.half_width, rounding_share * terms);
}

std::optional<bool> QuantityVerdict::holds_reference() const {
    if (!reference) return {};
    return std::fabs(*reference - interval.value) <= interval.half_width;
}

void decide(const QuantitySpec& q, QuantityVerdict& v) {
    const Convergence& c = v.convergence;
    const bool known = v.interval.known();
    if (v.verdict == Verdict::unbounded) return;
    const bool zero = std::fabs(c.finest) <= rounding_share * v.terms;
    v.verdict = !known                                                         ? Verdict::undecided
                : !q.target                                                    ? Verdict::no_target
                : v.interval.half_width <= q.target->allowed(c.finest) || zero ? Verdict::met
                                                                               : Verdict::missed;
    std::string number;
    if (zero)
        number = with_unit("0", v.unit);
    else if (known && v.near_zero())  // a share of it would mean nothing
        number = with_unit(fmt::format("{} ± {}", sensible(c.finest, 2), sensible(v.interval.half_width, 2)), v.unit);
    else
        number = with_unit(with_uncertainty(c.finest, v.interval.half_width), v.unit) +
                 (known && c.behaviour != Behaviour::settled ? " ± " + percent(v.interval.relative()) : "");
    v.sentence = fmt::format("{} = {}{}{}", q.name, number, behaviour_in_words(v), target_in_words(q, v));
    if (const auto held = v.holds_reference())
        v.sentence += fmt::format(" The reference {} lies {} {}{}.", with_unit(sensible(*v.reference, 5), v.unit),
                                  *v.reference != 0 && !v.near_zero()
                                      ? percent(std::fabs(*v.reference - c.finest) / std::fabs(c.finest))
                                      : with_unit(sensible(std::fabs(*v.reference - c.finest), 2), v.unit),
                                  *v.reference >= c.finest ? "above" : "below",
                                  !known  ? ""
                                  : *held ? ", inside the interval"
                                          : ", outside the interval");
    if (!v.caution.empty()) v.sentence += " " + v.caution;
}

QuantityVerdict judge_quantity(const QuantitySpec& q, const QuantityEvidence& evidence) {
    QuantityVerdict v;
    v.quantity = q.name;
    v.series = evidence.series;
    v.unit = evidence.unit;
    v.terms = evidence.terms;
    if (!evidence.estimated_errors.empty()) v.estimated_error = evidence.estimated_errors.back();
    v.caution = evidence.caution;
    v.has_target = q.target.has_value();
    v.reference = q.reference;
    v.convergence = judge_convergence(evidence.levels, evidence.expected_order, evidence.terms);
    v.interval = interval_of(evidence, v.convergence);
    if (evidence.unbounded.empty()) {
        decide(q, v);
        return v;
    }
    v.verdict = Verdict::unbounded;
    v.interval.half_width = v.convergence.extrapolated = NAN;
    v.interval.rule = "none: the exact value is infinite";
    v.sentence =
        fmt::format("{} = {} on the finest mesh, but it does not converge: {}{}", q.name,
                    with_unit(sensible(v.convergence.finest, 4), v.unit), evidence.unbounded,
                    q.target ? fmt::format(". The target of {} cannot be met.", shown_target(*q.target, v.unit)) : ".");
    return v;
}

void hold_to_limit(const QuantitySpec& q, QuantityVerdict& v) {
    if (!q.limit) return;
    v.limit = judge_limit(*q.limit, v.interval.value, v.interval.half_width, v.verdict != Verdict::unbounded, v.unit);
    v.sentence += " " + v.limit->sentence;
}

}  // namespace dotsift
