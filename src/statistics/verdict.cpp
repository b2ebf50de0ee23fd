#include "statistics/verdict.hpp"

#include <fmt/format.h>

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

double formal_order(const QuantitySpec& q) {
    if (q.formula) return 3;
    switch (q.field) {
        case Field::strain_energy:
        case Field::reaction_x:
        case Field::reaction_y:
            return 4;  // twice the degree
        default:
            return 3;  // displacements; recovered stresses where they superconverge
    }
}

QuantityVerdict judge_quantity(const QuantitySpec& q, const std::string& series, const std::vector<LevelValue>& levels,
                               const std::string& unit, double scale, const std::string& unbounded) {
    QuantityVerdict v;
    v.quantity = q.name;
    v.series = series;
    v.has_target = q.target.has_value();
    v.convergence = judge_convergence(levels, formal_order(q), scale);
    const Convergence& c = v.convergence;
    const double relative = c.finest != 0 ? c.uncertainty / std::fabs(c.finest) : c.uncertainty;
    const bool known = std::isfinite(c.uncertainty);
    v.verdict = !known                  ? Verdict::undecided
                : !q.target             ? Verdict::no_target
                : relative <= *q.target ? Verdict::met
                                        : Verdict::missed;

    const std::string of_unit = unit.empty() ? "" : " " + unit;
    if (!unbounded.empty()) {
        v.verdict = Verdict::unbounded;
        v.convergence.uncertainty = v.convergence.extrapolated = NAN;
        v.convergence.rule = "none: the exact value is infinite";
        v.sentence = fmt::format("{} = {}{} on the finest mesh, but it does not converge: {}{}", q.name,
                                 sensible(c.finest, 4), of_unit, unbounded,
                                 q.target ? fmt::format(". The target of {} cannot be met.", percent(*q.target)) : ".");
        return v;
    }
    std::string s = fmt::format(
        "{} = {}{}", q.name,
        std::fabs(c.finest) <= rounding_share * scale ? "0" : with_uncertainty(c.finest, c.uncertainty), of_unit);
    switch (c.behaviour) {
        case Behaviour::too_few:
            s += fmt::format(" on {}: {}", c.levels == 1 ? "one level" : "two levels", c.rule);
            break;
        case Behaviour::diverging:
            s += fmt::format(", but it does not converge: it changes by {} on the last level, and not less than before",
                             percent(c.change));
            break;
        case Behaviour::oscillating:
            s += fmt::format(" ± {} (oscillating; range of the last three levels)", percent(relative));
            break;
        case Behaviour::scattered:
            s += fmt::format(" ± {} (scattered within mesh noise; three times the range of the last three levels)",
                             percent(relative));
            break;
        case Behaviour::settled:
            s += ", no longer changing";
            break;
        case Behaviour::monotone:
            s += fmt::format(" ± {} (GCI, {} levels, observed order {}, safety factor {:g}{})", percent(relative),
                             c.levels, std::isfinite(c.observed_order) ? fmt::format("{:.2f}", c.observed_order) : "-",
                             c.safety_factor, c.asymptotic ? ", in the asymptotic range" : "");
            break;
    }
    switch (v.verdict) {
        case Verdict::met:
            s += fmt::format("; the target of {} is met.", percent(*q.target));
            break;
        case Verdict::missed:
            s += fmt::format("; the target of {} is missed.", percent(*q.target));
            break;
        case Verdict::no_target:
            s += "; no target was set.";
            break;
        case Verdict::undecided:
        case Verdict::unbounded:
            s += q.target ? fmt::format("; the target of {} is not shown to be met.", percent(*q.target)) : ".";
            break;
    }
    v.sentence = s;
    return v;
}

}  // namespace dotsift
