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
#include "solve/solid_solver.hpp"
#include "solve/solve.hpp"

namespace dotsift {

namespace {

// A field whose energy is below this share of what its size would suggest is rounding: there is no flow, or no stress.
constexpr double rounding_energy = 1e-16;

/// The energy of strains or gradients as large as the field itself over the size of the part.
template <int D>
double nominal_energy(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolutionIn<D>& s, bool of_potential) {
    double largest = 0;
    for (const Vec<D>& u : s.displacement)
        if (!of_potential) largest = std::max(largest, norm(u));
    for (const double t : s.potential)
        if (of_potential) largest = std::max(largest, std::fabs(t));
    Box<D> box;
    for (const auto& p : mesh.nodes) box.add(p);
    const double strain = largest / box.diagonal();
    double sum = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const RegionLawIn<D>& law = laws.of(mesh.region[e]);
        const double modulus = of_potential ? law.conduction.conductivity[0][0] : law.elastic.stiffness[0][0];
        sum += modulus * strain * strain * mesh.measure_of(e) * laws.depth(mesh.region[e], mesh.centre_of(e));
    }
    return sum;
}

}  // namespace

template <int D>
std::optional<ErrorMap> over_cases(const Study& study, const LevelFieldsIn<D>& fields, const CaseMap<D>& flux_map,
                                   const CaseMap<D>& stress_map) {
    std::optional<ErrorMap> of_flux, of_stress;
    bool complete = true;
    const auto add = [&](std::optional<ErrorMap>& sum, std::optional<ErrorMap> map, const SolutionIn<D>& s,
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
template std::optional<ErrorMap> over_cases<2>(const Study&, const LevelFieldsIn<2>&, const CaseMap<2>&,
                                               const CaseMap<2>&);
template std::optional<ErrorMap> over_cases<3>(const Study&, const LevelFieldsIn<3>&, const CaseMap<3>&,
                                               const CaseMap<3>&);

namespace {

/// Recovered fields of every case, and the error that they show.
void recover(const Study& study, const std::vector<SingularPoint>& singular, double near, LevelFields& fields) {
    const Mesh& mesh = fields.mesh;
    const Laws& laws = fields.laws;
    for (auto& c : fields.cases) {
        if (study.conducts()) c.flux = recover_flux(mesh, study, laws, c.solution);
        if (study.elastic()) c.stress = recover_stress(mesh, study, laws, c.solution);
    }
    fields.error = *over_cases<2>(
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

void recover(const Study& study, LevelFieldsIn<3>& fields) {
    const SolidMesh& mesh = fields.mesh;
    const SolidLaws& laws = fields.laws;
    for (auto& c : fields.cases) {
        if (study.conducts()) c.flux = recover_flux(mesh, laws, c.solution);
        if (study.elastic()) c.stress = recover_stress(mesh, laws, c.solution);
    }
    fields.error = *over_cases<3>(
        study, fields, [&](const CaseFieldsIn<3>& c) { return estimate_flux_error(mesh, laws, c.solution, c.flux); },
        [&](const CaseFieldsIn<3>& c) { return estimate_error(mesh, laws, c.solution, c.stress); });
}

/// The bound that an admissible field gives, relative; notes why there is none.
void bound_error(const Study& study, Level& level, const LevelFields& fields) {
    const Mesh& mesh = fields.mesh;
    const Laws& laws = fields.laws;
    const std::string why = why_no_bound(study, mesh, laws);
    std::optional<ErrorMap> bound;
    if (why.empty())
        bound = over_cases<2>(
            study, fields, [&](const CaseFields& c) { return bound_flux_error(mesh, study, laws, c.solution); },
            [&](const CaseFields& c) { return bound_stress_error(mesh, study, laws, c.solution); });
    if (bound)
        level.error_bound = bound->relative();
    else
        level.notes.push_back("no bound of the error: " +
                              (why.empty() ? "no stress is in balance with forces at single points" : why));
}

/// A level's solutions on another mesh.
template <class Start, int D>
std::vector<Start> carried(const LevelFieldsIn<D>* before, const MeshIn<D>& mesh) {
    std::vector<Start> out;
    if (!before) return out;
    for (const auto& c : before->cases) {
        Start s;
        if (!c.solution.displacement.empty()) s.displacement = carry_nodes(before->mesh, c.solution.displacement, mesh);
        if (!c.solution.potential.empty())
            s.potential = carry_slots(before->mesh, c.solution.potential, mesh, CarryRule::consistent);
        out.push_back(std::move(s));
    }
    return out;
}

template <int D, class Solver>
std::vector<std::optional<GoalEstimate>> estimate_goals(const Study& study, const std::vector<QuantityValue>& values,
                                                        const MeshIn<D>& mesh, Solver& solver,
                                                        const std::vector<CaseFieldsIn<D>>& cases) {
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

namespace {

bool asks_for_dual(const Study& study) {
    return std::any_of(study.quantities.begin(), study.quantities.end(), [](const QuantitySpec& q) { return q.dual; });
}

/// What a level costs, stage by stage; faults get its name.
class LevelWork {
  public:
    LevelWork(const std::string& series, int index, StudyObserver& observer)
        : series_(series), index_(index), observer_(observer) {
        level_.series = series;
        level_.index = index;
    }

    /// Does a stage.
    template <class Work>
    void stage(const char* name, Work work) {
        observer_.stage(series_, index_, name);
        CostMeter meter(name);
        work(level_);
        level_.costs.push_back(meter.finish());
    }

    /// Does all of them: act(*this).
    template <class Act>
    Level run(Act act) {
        try {
            act(*this);
        } catch (Error& e) {
            e.in_level(fmt::format("series {}, level {}", series_, index_));
            throw;
        } catch (const std::bad_alloc&) {
            Place place;
            place.level = fmt::format("series {}, level {}", series_, index_);
            throw SolveError("not enough memory", place, "ask for larger elements, or lower most_elements");
        }
        return std::move(level_);
    }

    /// What of a solution stands among a level's numbers.
    template <int D>
    void take(const SolutionIn<D>& s) {
        level_.unknowns = s.unknowns;
        level_.balance = s.balance;
        level_.loads = s.loads;
        level_.reactions = s.reactions;
        level_.factor_bytes = s.solver.factor_bytes;
        level_.residual = s.solver.residual;
    }
    Level& level() { return level_; }

  private:
    const std::string& series_;
    int index_;
    StudyObserver& observer_;
    Level level_;
};

}  // namespace

Level solve_level(const Study& study, const Part& part, const std::vector<SingularPoint>& singular,
                  const MeshMaker& make, const std::string& series, int index, StudyObserver& observer,
                  const LevelFields* before) {
    auto fields = std::make_shared<LevelFields>();
    std::optional<StudySolver> solver;
    Level level = LevelWork(series, index, observer).run([&](LevelWork& work) {
        work.stage("mesh", [&](Level& l) {
            MeshingLog log;
            MadeMesh made = make(log);
            fields->mesh = std::move(made.mesh);
            fields->wanted_size = std::move(made.wanted);
            l.notes = meshing_notes(log, made.repair, study, part);
            l.mesh = summarise(fields->mesh);
        });
        const Mesh& mesh = fields->mesh;
        fields->laws = laws_of(study, mesh.region_names);
        const Laws& laws = fields->laws;
        work.stage("solve", [&](Level&) {
            solver.emplace(mesh, study, asks_for_dual(study));
            for (auto& s : solver->solve(carried<StartFields>(before, mesh)))
                fields->cases.push_back({std::move(s), {}, {}});
        });
        work.stage("estimate", [&](Level& l) {
            recover(study, singular, same_point_share * part.box.diagonal(), *fields);
            if (study.error_bound) bound_error(study, l, *fields);
            l.estimated_error = fields->error.relative();
            l.unseen_error = geometry_gap(part, mesh) + prescribed_gap(mesh, study);
            l.quantities = evaluate_quantities<2>(study, mesh, laws, fields->cases);
            l.goals = estimate_goals(study, l.quantities, mesh, *solver, fields->cases);
            for (auto& c : fields->cases) {  // results hold the values at the slots only
                c.stress.patches = {};
                c.flux.patches = {};
            }
        });
        const Solution& s = fields->cases.front().solution;
        if (study.exact_stress && study.elastic())
            work.level().true_error = true_error(mesh, laws, s, *study.exact_stress, study.path.string());
        work.take(s);
    });
    level.fields = std::move(fields);
    return level;
}

Level solve_level(const Study& study, const SolidPart& part, const std::vector<SingularPoint>& /*singular*/,
                  const MeshMakerIn<3>& make, const std::string& series, int index, StudyObserver& observer,
                  const LevelFieldsIn<3>* before) {
    auto fields = std::make_shared<LevelFieldsIn<3>>();
    std::optional<SolidSolver> solver;
    Level level = LevelWork(series, index, observer).run([&](LevelWork& work) {
        work.stage("mesh", [&](Level& l) {
            MeshingLog log;
            MadeMeshIn<3> made = make(log);
            fields->mesh = std::move(made.mesh);
            fields->wanted_size = std::move(made.wanted);
            l.notes = notes_on_tries(log, study.units.label(dimension::length));
            for (auto& line : notes_on_straightened(log)) l.notes.push_back(std::move(line));
            l.mesh = summarise(fields->mesh);
        });
        const SolidMesh& mesh = fields->mesh;
        fields->laws = solid_laws(study, mesh.region_names);
        work.stage("solve", [&](Level&) {
            solver.emplace(mesh, study, fields->laws, asks_for_dual(study));
            for (auto& s : solver->solve(carried<SolidStart>(before, mesh)))
                fields->cases.push_back({std::move(s), {}, {}});
        });
        work.stage("estimate", [&](Level& l) {
            recover(study, *fields);
            l.estimated_error = fields->error.relative();
            l.unseen_error = geometry_gap(part, mesh);
            l.quantities = evaluate_quantities<3>(study, mesh, fields->laws, fields->cases);
            l.goals = estimate_goals(study, l.quantities, mesh, *solver, fields->cases);
        });
        if (study.exact_stress && study.elastic())
            work.level().true_error = true_error(mesh, fields->laws, fields->cases.front().solution,
                                                 *study.exact_stress, study.path.string());
        work.take(fields->cases.front().solution);
    });
    level.solid = std::move(fields);
    return level;
}

}  // namespace dotsift
