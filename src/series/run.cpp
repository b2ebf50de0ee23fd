#include "series/run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <optional>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "mesh/generate.hpp"
#include "quality/make_mesh.hpp"
#include "recovery/recover.hpp"
#include "recovery/resize.hpp"
#include "recovery/strategy.hpp"
#include "series/stop_rules.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"

namespace dotsift {

namespace {

// One adaptive step aims at an error this many times smaller. Larger steps trust the coarse mesh's error map too far.
constexpr double boldest_step = 3;
// And at least this many: levels that hardly differ cost a solve and show no order.
constexpr double mildest_step = 2;
// Aims a little below the target, so that it is not missed by a hair and paid for with another level.
constexpr double aim = 0.85;

// A step towards a budget multiplies the number of elements by at most this.
constexpr double boldest_growth = 4;

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
        sum += modulus * strain * strain * mesh.area_of(e) * laws.depth(mesh.region[e], mesh.centre_of(e));
    }
    return sum;
}

/// Recovered fields of every case, and one error map: over the cases errors and energies add up, so that a case in
/// which nothing happens does not count; over the two physics the squares of the relative errors do.
void recover(const Mesh& mesh, const Laws& laws, const Study& study, LevelFields& fields) {
    std::optional<ErrorMap> of_flux, of_stress;
    const auto add = [&](std::optional<ErrorMap>& sum, ErrorMap map, const Solution& s, bool of_potential) {
        if (map.energy2 <= rounding_energy * nominal_energy(mesh, laws, s, of_potential)) {
            std::fill(map.element_error2.begin(), map.element_error2.end(), 0.0);
            map.error2 = map.energy2 = 0;
        }
        if (!sum) {
            sum = std::move(map);
            return;
        }
        for (std::size_t e = 0; e < map.element_error2.size(); ++e) sum->element_error2[e] += map.element_error2[e];
        sum->error2 += map.error2;
        sum->energy2 += map.energy2;
    };
    for (auto& c : fields.cases) {
        if (study.conducts()) {
            c.flux = recover_flux(mesh, study, laws, c.solution);
            add(of_flux, estimate_flux_error(mesh, laws, c.solution, c.flux), c.solution, true);
        }
        if (study.elastic()) {
            c.stress = recover_stress(mesh, study, laws, c.solution);
            add(of_stress, estimate_error(mesh, laws, c.solution, c.stress), c.solution, false);
        }
    }
    fields.error = of_flux && of_stress ? combined(*of_flux, *of_stress) : of_flux ? *of_flux : *of_stress;
}

class SeriesRunner {
  public:
    SeriesRunner(const Study& study, const Part& part, StudyObserver& observer)
        : study_(study), part_(part), observer_(observer), base_(sizing_of(part, study.sizes, study.path)) {}

    SeriesResult run(const SeriesSpec& spec) {
        SeriesResult result;
        result.name = spec.name;
        result.kind = spec.kind;
        Sizing sizes = base_;
        const auto begin = std::chrono::steady_clock::now();
        for (;;) {
            const int index = static_cast<int>(result.levels.size()) + 1;
            try {
                result.levels.push_back(level(sizes, spec.name, index));
            } catch (const Interrupted&) {
                result.stopped_by = "interrupted";
                result.target_met = false;
                return result;
            }
            const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
            if (const auto stop = stop_after(study_, spec, result, seconds)) {
                result.stopped_by = stop->reason;
                result.target_met = stop->target_met;
                break;
            }
            const Sizing next = next_sizes(spec, result.levels.back(), index);
            const double most = static_cast<double>(std::min(spec.most_elements, study_.sizes.most_elements));
            const double expected = estimate_elements(part_, next.field, 2 * most);
            if (expected > most) {
                result.stopped_by = fmt::format(
                    "the limit of {} elements: the next level would have {}", grouped(static_cast<long long>(most)),
                    expected >= 2 * most ? "at least twice as many" : "about " + grouped(std::llround(expected)));
                result.target_met = !has_target(spec);
                break;
            }
            sizes = next;
        }
        return result;
    }

  private:
    Level level(const Sizing& sizes, const std::string& series, int index) {
        if (index > 1 || !first_) {
            Level l = solve_level(study_, part_, sizes, series, index, observer_);
            if (index == 1) first_ = l;
            observer_.level_done(l);
            return l;
        }
        Level l = *first_;  // the same mesh starts every series
        l.series = series;
        observer_.level_done(l);
        return l;
    }

    Sizing next_sizes(const SeriesSpec& spec, const Level& last, int levels) const {
        const double finer = std::pow(spec.ratio, -levels);
        if (spec.kind == SeriesKind::uniform) return base_.scaled(finer);
        if (spec.kind == SeriesKind::local) {
            std::vector<int> rules, layers;
            const auto chosen = [&](const std::string& name) {
                return std::find(spec.rules.begin(), spec.rules.end(), name) != spec.rules.end();
            };
            for (std::size_t k = 0; k < study_.sizes.local.size(); ++k)
                if (chosen(study_.sizes.local[k].name)) rules.push_back(static_cast<int>(k));
            for (std::size_t k = 0; k < study_.sizes.layers.size(); ++k)
                if (chosen(study_.sizes.layers[k].name)) layers.push_back(static_cast<int>(k));
            return base_.scaled(finer, rules, layers);
        }
        ResizeLimits limits;
        limits.smallest = spec.smallest.value_or(study_.sizes.smallest.value_or(0));
        limits.largest = spec.largest.value_or(2 * base_.field.global());
        limits.growth = spec.growth.value_or(study_.sizes.growth);
        if (!spec.coarsen) limits.most_coarser = 1;
        return {resize(last.fields->mesh, factors(spec, last), limits).with(curvature_sources(part_, study_.sizes)),
                {},
                base_.layers};
    }

    /// The energy norm's, or what the elements contribute to the error of a quantity, whose sum has the order of a
    /// squared norm: relative() is then the root of that sum over the quantity.
    ErrorMap driving_error(const SeriesSpec& spec, const Level& last) const {
        if (spec.drive.empty()) return last.fields->error;
        const auto& goal = *last.goals[driving_quantity(study_, spec)];
        ErrorMap map;
        map.element_error2.reserve(goal.element_error.size());
        for (const double x : goal.element_error) map.element_error2.push_back(std::fabs(x));
        for (const double x : map.element_error2) map.error2 += x;
        map.energy2 = std::max(std::fabs(goal.corrected()) - map.error2, 0.0);
        return map;
    }

    /// On the sizes of the last level's elements.
    std::vector<double> factors(const SeriesSpec& spec, const Level& last) const {
        const Mesh& mesh = last.fields->mesh;
        const ErrorMap map = driving_error(spec, last);
        std::vector<char> changes(mesh.element_count(), 1);
        std::vector<double> error2 = map.element_error2;
        double kept = 0, elements = 0;  // squared error and number of what does not change
        for (std::size_t e = 0; e < error2.size(); ++e) {
            if (spec.within.empty() || mesh.region_fits(e, spec.within)) continue;
            changes[e] = 0;
            kept += error2[e];
            elements += 1;
            error2[e] = 0;
        }
        const int degree = polynomial_degree(mesh.kinds.front());
        std::vector<double> factor;
        switch (spec.strategy) {
            case Strategy::target: {
                // Of a quantity the target is the sum itself, not its root.
                const double target =
                    spec.drive.empty() ? spec.error_target.value_or(0) : std::sqrt(spec.error_target.value_or(0));
                const double wanted =
                    std::clamp(aim * target, map.relative() / boldest_step, map.relative() / mildest_step);
                const double least = (map.error2 - kept) / (boldest_step * boldest_step);
                factor = factors_for_error(error2, std::max(wanted * wanted * (map.energy2 + map.error2) - kept, least),
                                           degree, 2);
                break;
            }
            case Strategy::budget: {
                const auto have = static_cast<double>(mesh.element_count());
                const double wanted = spec.budget_elements
                                          ? static_cast<double>(*spec.budget_elements)
                                          : static_cast<double>(*spec.budget_unknowns) * have /
                                                static_cast<double>(std::max<std::int64_t>(last.unknowns, 1));
                factor = factors_for_count(error2, std::max(std::min(wanted, boldest_growth * have) - elements, 1.0),
                                           degree, 2);
                break;
            }
            case Strategy::share_of_elements:
                factor = factors_for_share(error2, spec.share, spec.finer);
                break;
            case Strategy::share_of_error:
                factor = factors_for_bulk(error2, spec.share, spec.finer);
                break;
        }
        for (std::size_t e = 0; e < factor.size(); ++e)
            if (!changes[e]) factor[e] = 1;
        return factor;
    }

    const Study& study_;
    const Part& part_;
    StudyObserver& observer_;
    Sizing base_;
    std::optional<Level> first_;
};

}  // namespace

bool StudyResult::all_targets_met() const {
    if (interrupted) return false;
    for (const auto& s : series) {
        if (!s.target_met) return false;
    }
    // A quantity's target is met if any series met it: the others are there for comparison.
    if (series.empty()) return true;
    for (std::size_t q = 0; q < series.front().verdicts.size(); ++q) {
        bool wanted = false, met = false;
        for (const auto& s : series) {
            if (q >= s.verdicts.size()) continue;
            wanted = wanted || s.verdicts[q].has_target;
            met = met || s.verdicts[q].verdict == Verdict::met;
        }
        if (wanted && !met) return false;
    }
    return true;
}

namespace {

std::vector<std::optional<GoalEstimate>> estimate_goals(const Study& study, const std::vector<QuantityValue>& values,
                                                        const Mesh& mesh, StudySolver& solver,
                                                        const std::vector<CaseFields>& cases) {
    std::vector<std::optional<GoalEstimate>> out(study.quantities.size());
    for (std::size_t q = 0; q < out.size(); ++q) {
        const QuantitySpec& spec = study.quantities[q];
        if (!spec.dual) continue;
        const auto found = std::find_if(cases.begin(), cases.end(),
                                        [&](const CaseFields& c) { return c.solution.load_case == spec.load_case; });
        out[q] = estimate_goal(spec, values[q], study, mesh, solver, found == cases.end() ? cases.front() : *found);
        const bool drives = std::any_of(study.series.begin(), study.series.end(),
                                        [&](const SeriesSpec& s) { return s.drive == spec.name; });
        if (out[q] || !drives) continue;
        Place place;
        place.file = study.path.string();
        place.line = spec.where.line;
        place.column = spec.where.column;
        throw InputError(fmt::format("quantity.{} drives a series, but it has no dual problem", spec.name), place,
                         "a mean, an integral, a value at a point, a force at a fixed support or the energy has one; "
                         "elements of nearly incompressible materials have none");
    }
    return out;
}

}  // namespace

Level solve_level(const Study& study, const Part& part, const Sizing& sizes, const std::string& series, int index,
                  StudyObserver& observer) {
    const auto begin = [&](const char* stage) {
        if (observer.stop_requested()) throw Interrupted();
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
            MadeMesh made = make_mesh(study, part, sizes, level.meshing);
            fields->mesh = std::move(made.mesh);
            fields->wanted_size = std::move(made.wanted);
            level.repair = std::move(made.repair);
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
            for (auto& s : solver->solve()) fields->cases.push_back({std::move(s), {}, {}});
            level.costs.push_back(meter.finish());
        }
        {
            const CostMeter meter = begin("estimate");
            recover(mesh, laws, study, *fields);
            level.estimated_error = fields->error.relative();
            level.quantities = evaluate_quantities(study, mesh, laws, fields->cases);
            level.goals = estimate_goals(study, level.quantities, mesh, *solver, fields->cases);
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
    } catch (const Interrupted&) {
        throw;
    } catch (const Error& e) {
        Place place = e.place();
        place.level = fmt::format("series {}, level {}", series, index);
        throw Error(e.status(), e.what(), place, e.remedy());
    }
    level.fields = std::move(fields);
    return level;
}

StudyResult run_study(const Study& study, const Part& part, StudyObserver& observer) {
    StudyResult result;
    SeriesRunner runner(study, part, observer);
    for (const auto& spec : study.series) {
        SeriesResult series = runner.run(spec);
        result.interrupted = series.stopped_by == "interrupted";
        series.verdicts = judge(study, series);
        result.series.push_back(std::move(series));
        if (result.interrupted) break;
    }
    return result;
}

}  // namespace dotsift
