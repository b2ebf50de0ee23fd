#include "series/driving_error.hpp"

#include <algorithm>
#include <cmath>

#include "quantities/evaluate.hpp"
#include "recovery/indicators.hpp"
#include "series/solve_level.hpp"

namespace dotsift {

namespace {

/// The squares by which an indicator ranks the elements, over all cases.
template <int D>
ErrorMap indicated(const Study& study, Indicator indicator, Field field, const LevelFieldsIn<D>& fields) {
    const MeshIn<D>& mesh = fields.mesh;
    const LawsIn<D>& laws = fields.laws;
    if (indicator == Indicator::recovery) return fields.error;
    if constexpr (D == 2)
        if (indicator == Indicator::residual) {
            // Residuals tell the places better than the size of the error, which the recovered field tells.
            ErrorMap map = *over_cases<2>(
                study, fields, [&](const CaseFields& c) { return residual_flux_error(mesh, study, laws, c.solution); },
                [&](const CaseFields& c) { return residual_stress_error(mesh, study, laws, c.solution); });
            if (map.error2 > 0)
                for (auto& v : map.element_error2) v *= fields.error.error2 / map.error2;
            map.error2 = fields.error.error2;
            map.energy2 = fields.error.energy2;
            return map;
        }
    ErrorMap map;
    map.element_error2.assign(mesh.element_count(), 0.0);
    const auto add = [&](const std::vector<double>& values) {
        for (std::size_t e = 0; e < values.size(); ++e) map.element_error2[e] += values[e];
    };
    for (std::size_t k = 0; k < fields.cases.size(); ++k) {
        const SolutionIn<D>& s = fields.cases[k].solution;
        if (indicator == Indicator::energy_density) {
            if (study.conducts()) add(energy_densities(mesh, laws, s, true));
            if (study.elastic()) add(energy_densities(mesh, laws, s, false));
            continue;
        }
        const auto values = slot_field(field, fields.source(k));
        add(indicator == Indicator::jump ? jumps_of_slots(mesh, values) : changes_of_slots(mesh, values));
    }
    for (const double v : map.element_error2) map.error2 += v;
    return map;
}

void add_scaled(std::vector<double>& sum, const std::vector<double>& values, double factor) {
    for (std::size_t e = 0; e < values.size(); ++e) sum[e] += factor * values[e];
}

template <int D>
ErrorMap by_indicators(const Study& study, const SeriesSpec& spec, const LevelFieldsIn<D>& fields) {
    if (spec.indicators.size() == 1) return indicated(study, spec.indicators.front(), spec.indicator_field, fields);
    ErrorMap sum;
    sum.element_error2.assign(fields.mesh.element_count(), 0.0);
    int shown = 0;
    for (const Indicator indicator : spec.indicators) {
        const ErrorMap map = indicated(study, indicator, spec.indicator_field, fields);
        if (!(map.error2 > 0)) continue;
        add_scaled(sum.element_error2, map.element_error2, 1 / map.error2);
        ++shown;
    }
    if (shown == 0) return sum;
    // Shares of the recovered error, which tells the size.
    const bool of_error = std::all_of(spec.indicators.begin(), spec.indicators.end(), estimates_energy_norm);
    sum.error2 = of_error ? fields.error.error2 : 1;
    sum.energy2 = of_error ? fields.error.energy2 : 0;
    for (auto& v : sum.element_error2) v *= sum.error2 / shown;
    return sum;
}

const GoalEstimate& goal_of(const Study& study, const std::string& quantity, const Level& level) {
    const auto found = std::find_if(study.quantities.begin(), study.quantities.end(),
                                    [&](const QuantitySpec& q) { return q.name == quantity; });
    return *level.goals[static_cast<std::size_t>(found - study.quantities.begin())];
}

ErrorMap by_goal(const GoalEstimate& goal) {
    ErrorMap map;
    map.element_error2.reserve(goal.element_error.size());
    for (const double x : goal.element_error) map.element_error2.push_back(std::fabs(x));
    for (const double x : map.element_error2) map.error2 += x;
    map.energy2 = std::max(std::fabs(goal.corrected()) - map.error2, 0.0);
    return map;
}

}  // namespace

DrivingError driving_error(const Study& study, const SeriesSpec& spec, const Level& last) {
    const auto map_of = [&](const std::string& name) {
        if (name != of_energy) return by_goal(goal_of(study, name, last));
        return last.solid ? by_indicators(study, spec, *last.solid) : by_indicators(study, spec, *last.fields);
    };
    const double target = spec.error_target.value_or(1);
    if (spec.drive.size() == 1) {
        const auto& name = spec.drive.front();
        return {map_of(name), name == of_energy ? target : std::sqrt(target)};
    }
    DrivingError out;
    out.target = std::sqrt(target);
    out.map.element_error2.assign(topology_of(last).element_count(), 0.0);
    for (const auto& name : spec.drive) {
        const ErrorMap map = map_of(name);
        if (!(map.error2 > 0)) continue;
        const double relative2 = map.relative() * map.relative();
        const double sum = name == of_energy ? relative2 / target : relative2;  // over the target's square, or itself
        add_scaled(out.map.element_error2, map.element_error2, sum / map.error2);
        out.map.error2 += sum;
    }
    out.map.energy2 = 1 - out.map.error2;
    return out;
}

double estimated_error(const Study& study, const SeriesSpec& spec, const Level& level) {
    double largest = 0;
    for (const auto& name : spec.drive) {
        if (name == of_energy) {
            largest = std::max(largest, level.estimated_error);
            continue;
        }
        const GoalEstimate& goal = goal_of(study, name, level);
        if (goal.error != 0) largest = std::max(largest, std::fabs(goal.error / goal.corrected()));
    }
    return largest;
}

}  // namespace dotsift
