#include "series/solve_level.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "recovery/bound/admissible.hpp"
#include "recovery/fit/singular_fit.hpp"
#include "recovery/recover.hpp"
#include "series/consistency.hpp"
#include "series/meshing_notes.hpp"
#include "solve/acting/prescribed_gap.hpp"
#include "solve/carry_over.hpp"
#include "solve/solve.hpp"

namespace dotsift {

namespace {

// A field whose energy is below this share of what its size would suggest is rounding: there is no flow, or no stress.
constexpr double rounding_energy = 1e-16;

/// The energy of strains or gradients as large as the field itself over the size of the part.
double nominal_energy(const Mesh& mesh, const Laws& laws, const Solution& s, bool of_potential) {
    double largest = 0;
    for (const Vec2& u : s.displacement)
        if (!of_potential) largest = std::max(largest, norm(u));
    for (const double t : s.potential)
        if (of_potential) largest = std::max(largest, std::fabs(t));
    Box2 box;
    for (const auto& p : mesh.nodes) box.add(p);
    const double strain = largest / box.diagonal();
    double sum = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const RegionLaw& law = laws.of(mesh.region[e]);
        const double modulus = of_potential ? law.conduction.conductivity[0][0] : law.elastic.stiffness[0][0];
        sum += modulus * strain * strain * mesh.measure_of(e) * laws.depth(mesh.region[e], mesh.centre_of(e));
    }
    return sum;
}

}  // namespace

std::optional<ErrorMap> over_cases(const Study& study, const LevelFields& fields, const CaseMap& flux_map,
                                   const CaseMap& stress_map) {
    std::optional<ErrorMap> of_flux, of_stress;
    bool complete = true;
    const auto add = [&](std::optional<ErrorMap>& sum, std::optional<ErrorMap> map, const Solution& s,
                         bool of_potential) {
        if (!map) {
            complete = false;
            return;
        }
        if (map->energy2 <= rounding_energy * nominal_energy(fields.mesh, fields.laws, s, of_potential)) {
            std::fill(map->element_error2.begin(), map->element_error2.end(), 0.0);
            map->error2 = map->energy2 = 0;
        }
        if (!sum) {
            sum = std::move(map);
            return;
        }
        for (std::size_t e = 0; e < map->element_error2.size(); ++e) sum->element_error2[e] += map->element_error2[e];
        sum->error2 += map->error2;
        sum->energy2 += map->energy2;
    };
    for (const auto& c : fields.cases) {
        if (study.conducts()) add(of_flux, flux_map(c), c.solution, true);
        if (study.elastic()) add(of_stress, stress_map(c), c.solution, false);
    }
    if (!complete) return {};
    return of_flux && of_stress ? combined(*of_flux, *of_stress) : of_flux ? of_flux : of_stress;
}

namespace {

/// Recovered fields of every case, and the error that they show.
void recover(const Study& study, const std::vector<SingularPoint>& singular, double near, LevelFields& fields) {
    const Mesh& mesh = fields.mesh;
    const Laws& laws = fields.laws;
    for (auto& c : fields.cases) {
        if (study.conducts()) c.flux = recover_flux(mesh, study, laws, c.solution);
        if (study.elastic()) c.stress = recover_stress(mesh, study, laws, c.solution);
    }
    fields.error = *over_cases(
        study, fields,
        [&](const CaseFields& c) {
            return estimate_flux_error(mesh, laws, c.solution, c.flux,
                                       singular_fits(mesh, laws, c.solution, singular, near));
        },
        [&](const CaseFields& c) {
            return estimate_error(mesh, laws, c.solution, c.stress,
                                  singular_fits(mesh, laws, c.solution, singular, near));
        });
}

/// The bound that an admissible field gives, relative; notes why there is none.
void bound_error(const Study& study, Level& level, const LevelFields& fields) {
    const Mesh& mesh = fields.mesh;
    const Laws& laws = fields.laws;
    const std::string why = why_no_bound(study, mesh, laws);
    std::optional<ErrorMap> bound;
    if (why.empty())
        bound = over_cases(
            study, fields, [&](const CaseFields& c) { return bound_flux_error(mesh, study, laws, c.solution); },
            [&](const CaseFields& c) { return bound_stress_error(mesh, study, laws, c.solution); });
    if (bound)
        level.error_bound = bound->relative();
    else
        level.notes.push_back("no bound of the error: " +
                              (why.empty() ? "no stress is in balance with forces at single points" : why));
}

/// A level's solutions on another mesh.
std::vector<StartFields> carried(const LevelFields* before, const Mesh& mesh) {
    std::vector<StartFields> out;
    if (!before) return out;
    for (const auto& c : before->cases) {
        StartFields s;
        if (!c.solution.displacement.empty()) s.displacement = carry_nodes(before->mesh, c.solution.displacement, mesh);
        if (!c.solution.potential.empty())
            s.potential = carry_slots(before->mesh, c.solution.potential, mesh, CarryRule::consistent);
        out.push_back(std::move(s));
    }
    return out;
}

std::vector<std::optional<GoalEstimate>> estimate_goals(const Study& study, const std::vector<QuantityValue>& values,
                                                        const Mesh& mesh, StudySolver& solver,
                                                        const std::vector<CaseFields>& cases) {
    std::vector<std::optional<GoalEstimate>> out(study.quantities.size());
    for (std::size_t q = 0; q < out.size(); ++q) {
        const QuantitySpec& spec = study.quantities[q];
        if (!spec.dual) continue;
        out[q] = estimate_goal(spec, values[q], study, mesh, solver, cases[place_of_case(cases, spec.load_case)]);
        const bool drives = std::any_of(study.series.begin(), study.series.end(),
                                        [&](const SeriesSpec& s) { return s.follows(spec.name); });
        if (out[q] || !drives) continue;
        Place place = place_in(study.path, spec.where);
        throw InputError(fmt::format("quantity.{} drives a series, but it has no dual problem", spec.name), place,
                         "a mean, an integral, a value at a point, a force at a fixed support or the energy has one; "
                         "elements of nearly incompressible materials have none");
    }
    return out;
}

}  // namespace

Level solve_level(const Study& study, const Part& part, const std::vector<SingularPoint>& singular,
                  const MeshMaker& make, const std::string& series, int index, StudyObserver& observer,
                  const LevelFields* before) {
    const auto begin = [&](const char* stage) {
        observer.stage(series, index, stage);
        return CostMeter(stage);
    };
    Level level;
    level.series = series;
    level.index = index;
    auto fields = std::make_shared<LevelFields>();
    std::optional<StudySolver> solver;
    try {
        {
            const CostMeter meter = begin("mesh");
            MeshingLog log;
            MadeMesh made = make(log);
            fields->mesh = std::move(made.mesh);
            fields->wanted_size = std::move(made.wanted);
            level.notes = meshing_notes(log, made.repair, study, part);
            level.mesh = summarise(fields->mesh);
            level.costs.push_back(meter.finish());
        }
        const Mesh& mesh = fields->mesh;
        fields->laws = laws_of(study, mesh.region_names);
        const Laws& laws = fields->laws;
        {
            const CostMeter meter = begin("solve");
            const bool dual = std::any_of(study.quantities.begin(), study.quantities.end(),
                                          [](const QuantitySpec& q) { return q.dual; });
            solver.emplace(mesh, study, dual);
            for (auto& s : solver->solve(carried(before, mesh))) fields->cases.push_back({std::move(s), {}, {}});
            level.costs.push_back(meter.finish());
        }
        {
            const CostMeter meter = begin("estimate");
            recover(study, singular, same_point_share * part.box.diagonal(), *fields);
            if (study.error_bound) bound_error(study, level, *fields);
            level.estimated_error = fields->error.relative();
            level.unseen_error = geometry_gap(part, mesh) + prescribed_gap(mesh, study);
            level.quantities = evaluate_quantities(study, mesh, laws, fields->cases);
            level.goals = estimate_goals(study, level.quantities, mesh, *solver, fields->cases);
            for (auto& c : fields->cases) {  // results hold the values at the slots only
                c.stress.patches = {};
                c.flux.patches = {};
            }
            level.costs.push_back(meter.finish());
        }
        const Solution& s = fields->cases.front().solution;
        if (study.exact_stress && study.elastic())
            level.true_error = true_error(mesh, laws, s, *study.exact_stress, study.path.string());
        level.unknowns = s.unknowns;
        level.balance = s.balance;
        level.loads = s.loads;
        level.reactions = s.reactions;
        level.factor_bytes = s.solver.factor_bytes;
        level.residual = s.solver.residual;
    } catch (Error& e) {
        e.in_level(fmt::format("series {}, level {}", series, index));
        throw;
    } catch (const std::bad_alloc&) {
        Place place;
        place.level = fmt::format("series {}, level {}", series, index);
        throw SolveError("not enough memory", place, "ask for larger elements, or lower most_elements");
    }
    level.fields = std::move(fields);
    return level;
}

}  // namespace dotsift
