#include "series/run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "mesh/generate.hpp"
#include "quality/make_mesh.hpp"
#include "recovery/admissible.hpp"
#include "recovery/indicators.hpp"
#include "recovery/recover.hpp"
#include "recovery/resize.hpp"
#include "recovery/strategy.hpp"
#include "series/meshing_notes.hpp"
#include "series/stop_rules.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/carry_over.hpp"
#include "solve/singular_points.hpp"
#include "solve/solve.hpp"

namespace dotsift {

namespace {

// One adaptive step aims at an error this many times smaller. Larger steps trust the coarse mesh's error map too far.
constexpr double boldest_step = 8;
// And at least this many: levels that hardly differ cost a solve and show no order.
constexpr double mildest_step = 2;
// Aims a little below the target, so that it is not missed by a hair and paid for with another level.
constexpr double aim = 0.85;

// At singular points, whose law is known, sizes go down to this share of the part's size in one step.
constexpr double smallest_share = 1e-5;

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

/// One error map of every case: errors and energies add up, so that a case in which nothing happens does not count;
/// over the two physics the squares of the relative errors do. Nothing if a map is missing.
using CaseMap = std::function<std::optional<ErrorMap>(const CaseFields&)>;
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

/// Recovered fields of every case, and the error that they show.
void recover(const Study& study, LevelFields& fields) {
    const Mesh& mesh = fields.mesh;
    const Laws& laws = fields.laws;
    for (auto& c : fields.cases) {
        if (study.conducts()) c.flux = recover_flux(mesh, study, laws, c.solution);
        if (study.elastic()) c.stress = recover_stress(mesh, study, laws, c.solution);
    }
    fields.error = *over_cases(
        study, fields, [&](const CaseFields& c) { return estimate_flux_error(mesh, laws, c.solution, c.flux); },
        [&](const CaseFields& c) { return estimate_error(mesh, laws, c.solution, c.stress); });
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

/// The squares by which an indicator ranks the elements, over all cases.
ErrorMap indicated(const Study& study, Indicator indicator, Field field, const LevelFields& fields) {
    const Mesh& mesh = fields.mesh;
    const Laws& laws = fields.laws;
    if (indicator == Indicator::recovery) return fields.error;
    if (indicator == Indicator::residual) {
        // Residuals tell the places better than the size of the error, which the recovered field tells.
        ErrorMap map = *over_cases(
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
        const Solution& s = fields.cases[k].solution;
        if (indicator == Indicator::energy) {
            if (study.conducts()) add(energy_of_elements(mesh, laws, s, true));
            if (study.elastic()) add(energy_of_elements(mesh, laws, s, false));
            continue;
        }
        const auto values = slot_field(field, fields.source(k));
        add(indicator == Indicator::jump ? jumps_of_slots(mesh, values) : changes_of_slots(mesh, values));
    }
    for (const double v : map.element_error2) map.error2 += v;
    return map;
}

/// What the next mesh is to be.
struct NextMesh {
    Sizing sizes;
    std::shared_ptr<const LevelFields> before;  // the level before
    std::vector<char> anew;                     // only these elements of it are made anew; empty: the whole mesh is
};

class SeriesRunner {
  public:
    SeriesRunner(const Study& study, const Part& part, const std::vector<SeriesResult>& done, StudyObserver& observer)
        : study_(study),
          part_(part),
          done_(done),
          observer_(observer),
          base_(sizing_of(part, study.sizes, study.path)),
          singular_(singular_points(part, study)) {}

    SeriesResult run(const SeriesSpec& spec) {
        SeriesResult result;
        result.name = spec.name;
        result.kind = spec.kind;
        const Level* start = start_of(spec);
        const Sizing first = start ? sizes_of(*start) : base_;
        NextMesh next{first, {}, {}};
        double seconds = 0;
        for (;;) {
            const int index = static_cast<int>(result.levels.size()) + 1;
            try {
                result.levels.push_back(level(next, spec, index, start));
            } catch (const Interrupted&) {
                result.stopped_by = "interrupted";
                result.target_met = false;
                return result;
            }
            for (const auto& c : result.levels.back().costs) seconds += c.seconds;
            ErrorMap driving;
            if (spec.kind == SeriesKind::adaptive) driving = driving_error(spec, result.levels.back());
            const bool nothing_left =
                spec.kind == SeriesKind::adaptive && spec.strategy != Strategy::target && !(driving.error2 > 0);
            if (const auto stop = stop_after(study_, spec, result, seconds, nothing_left)) {
                result.stopped_by = stop->reason;
                result.target_met = stop->target_met;
                break;
            }
            next = next_mesh(spec, first, result.levels.back(), driving, index);
            next.before = result.levels.back().fields;
            const double most = static_cast<double>(std::min(spec.most_elements, study_.sizes.most_elements));
            const double expected = estimate_elements(part_, next.sizes.field, 2 * most);
            if (expected > most) {
                result.stopped_by = fmt::format(
                    "the limit of {} elements: the next level would have {}", grouped(static_cast<long long>(most)),
                    expected >= 2 * most ? "at least twice as many" : "about " + grouped(std::llround(expected)));
                result.target_met = !has_target(spec);
                break;
            }
        }
        return result;
    }

  private:
    /// Stored, shared, or solved.
    Level level(const NextMesh& next, const SeriesSpec& spec, int index, const Level* start) {
        if (auto stored = observer_.stored(spec.name, index)) {
            if (index == 1 && !start && !first_) first_ = stored;
            return std::move(*stored);
        }
        Level l;
        if (index == 1 && (start || first_)) {
            l = start ? *start : *first_;  // a mesh that is there already
            l.series = spec.name;
            l.index = 1;
        } else {
            const auto make = [&](MeshingLog& log) {
                if (next.anew.empty()) return make_mesh(study_, part_, next.sizes, log);
                RemeshCounts counts;
                return remake_mesh(study_, part_, next.before->mesh, next.before->wanted_size, next.anew,
                                   next.sizes.field, counts);
            };
            l = solve_level(study_, part_, make, spec.name, index, observer_, next.before.get());
            if (index == 1) first_ = l;
        }
        observer_.level_done(l);
        return l;
    }

    /// The level that a series begins with instead of the study's own sizes.
    const Level* start_of(const SeriesSpec& spec) const {
        if (!spec.start) return nullptr;
        for (const auto& s : done_) {
            if (s.name != spec.start->series) continue;
            const auto level = static_cast<std::size_t>(spec.start->level);
            if (level <= s.levels.size()) return &s.levels[level - 1];
            Place place;
            place.file = study_.path.string();
            place.line = spec.where.line;
            throw InputError(fmt::format("series.{} starts from level {} of series {}, which ended with level {}",
                                         spec.name, level, s.name, s.levels.size()),
                             place, "start from an earlier level; resume keeps those that are solved");
        }
        return nullptr;  // the reader saw that it is there
    }

    /// The sizes of a level's elements as they are.
    Sizing sizes_of(const Level& level) const {
        const Mesh& mesh = level.fields->mesh;
        ResizeLimits limits;
        limits.smallest = study_.sizes.smallest.value_or(0);
        limits.largest = 2 * base_.field.global();
        limits.growth = study_.sizes.growth;
        return {resize(mesh, std::vector<double>(mesh.element_count(), 1.0), limits), {}, base_.layers};
    }

    NextMesh next_mesh(const SeriesSpec& spec, const Sizing& first, const Level& last, const ErrorMap& driving,
                       int levels) const {
        const double finer = std::pow(spec.ratio, -levels);
        if (spec.kind == SeriesKind::uniform) return {first.scaled(finer), {}, {}};
        if (spec.kind == SeriesKind::local) {
            std::vector<int> rules, layers;
            const auto chosen = [&](const std::string& name) {
                return std::find(spec.rules.begin(), spec.rules.end(), name) != spec.rules.end();
            };
            for (std::size_t k = 0; k < study_.sizes.local.size(); ++k)
                if (chosen(study_.sizes.local[k].name)) rules.push_back(static_cast<int>(k));
            for (std::size_t k = 0; k < study_.sizes.layers.size(); ++k)
                if (chosen(study_.sizes.layers[k].name)) layers.push_back(static_cast<int>(k));
            return {base_.scaled(finer, rules, layers), {}, {}};
        }
        ResizeLimits limits;
        limits.smallest = spec.smallest.value_or(study_.sizes.smallest.value_or(0));
        limits.largest = spec.largest.value_or(2 * base_.field.global());
        limits.growth = spec.growth.value_or(study_.sizes.growth);
        if (!spec.coarsen) limits.most_coarser = 1;
        const EvenShares even = factors(spec, last, driving);
        const Mesh& mesh = last.fields->mesh;
        SizeField field = resize(mesh, even.factor, limits)
                              .with(curvature_sources(part_, study_.sizes))
                              .with(sources_at_points(spec, mesh, driving, even, limits));
        NextMesh next{{std::move(field), {}, base_.layers}, {}, {}};
        if (spec.keep_rest) next.anew = changing(mesh, even.factor);
        return next;
    }

    /// The elements that become smaller and those that touch them, so that the sizes have room to grow; rows of layers
    /// stay.
    static std::vector<char> changing(const Mesh& mesh, const std::vector<double>& factor) {
        std::vector<char> touched(mesh.nodes.size(), 0), anew(mesh.element_count(), 0);
        for (std::size_t e = 0; e < anew.size(); ++e)
            if (factor[e] < 1 && mesh.row[e] == 0)
                for (const auto n : mesh.element(e)) touched[static_cast<std::size_t>(n)] = 1;
        for (std::size_t e = 0; e < anew.size(); ++e)
            for (const auto n : mesh.element(e))
                if (touched[static_cast<std::size_t>(n)] && mesh.row[e] == 0) anew[e] = 1;
        return anew;
    }

    /// The energy norm's, or what the elements contribute to the error of a quantity, whose sum has the order of a
    /// squared norm: relative() is then the root of that sum over the quantity.
    ErrorMap driving_error(const SeriesSpec& spec, const Level& last) const {
        if (spec.drive.empty()) return indicated(study_, spec.indicator, spec.indicator_field, *last.fields);
        const auto& goal = *last.goals[driving_quantity(study_, spec)];
        ErrorMap map;
        map.element_error2.reserve(goal.element_error.size());
        for (const double x : goal.element_error) map.element_error2.push_back(std::fabs(x));
        for (const double x : map.element_error2) map.error2 += x;
        map.energy2 = std::max(std::fabs(goal.corrected()) - map.error2, 0.0);
        return map;
    }

    /// On the sizes of the last level's elements.
    EvenShares factors(const SeriesSpec& spec, const Level& last, const ErrorMap& map) const {
        const Mesh& mesh = last.fields->mesh;
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
        EvenShares even;
        std::vector<double>& factor = even.factor;
        switch (spec.strategy) {
            case Strategy::target: {
                // Of a quantity the target is the sum itself, not its root.
                const double target =
                    spec.drive.empty() ? spec.error_target.value_or(0) : std::sqrt(spec.error_target.value_or(0));
                const double wanted =
                    std::clamp(aim * target, map.relative() / boldest_step, map.relative() / mildest_step);
                const double least = (map.error2 - kept) / (boldest_step * boldest_step);
                even = factors_for_error(error2, std::max(wanted * wanted * (map.energy2 + map.error2) - kept, least),
                                         degree, 2);
                break;
            }
            case Strategy::budget: {
                const auto have = static_cast<double>(mesh.element_count());
                const double wanted = spec.budget_elements
                                          ? static_cast<double>(*spec.budget_elements)
                                          : static_cast<double>(*spec.budget_unknowns) * have /
                                                static_cast<double>(std::max<std::int64_t>(last.unknowns, 1));
                even = factors_for_count(error2, std::max(std::min(wanted, boldest_growth * have) - elements, 1.0),
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
        return even;
    }

    /// Points where the error does not fall as elsewhere are sources of their own, so that the sizes grow from them.
    std::vector<SizeSource> sources_at_points(const SeriesSpec& spec, const Mesh& mesh, const ErrorMap& map,
                                              const EvenShares& even, const ResizeLimits& limits) const {
        std::vector<SizeSource> out;
        if (!spec.drive.empty() || !estimates_energy_norm(spec.indicator) || !(even.element_error2 > 0)) return out;
        const double near = same_point_share * part_.box.diagonal();
        for (const auto& p : singular_) {
            if (!(p.exponent > 0)) continue;
            SizeSource source;
            source.corners = {p.position, p.position, p.position};
            source.form = SizeSource::Form::point;
            source.size = INFINITY;
            for (std::size_t e = 0; e < mesh.element_count(); ++e) {
                const auto nodes = mesh.element(e);
                const bool touches = std::any_of(nodes.begin(), nodes.end(), [&](auto n) {
                    return distance(mesh.nodes[static_cast<std::size_t>(n)], p.position) <= near;
                });
                if (!touches || (!spec.within.empty() && !mesh.region_fits(e, spec.within))) continue;
                const double factor = factor_at_point(map.element_error2[e], even.element_error2, p.exponent);
                source.size = std::min(source.size, mesh.size_of(e) * std::min(factor, 1.0));
            }
            source.size = std::max({source.size, smallest_share * part_.box.diagonal(), limits.smallest});
            if (source.size < limits.largest) out.push_back(source);
        }
        return out;
    }

    const Study& study_;
    const Part& part_;
    const std::vector<SeriesResult>& done_;  // the series before this one
    StudyObserver& observer_;
    Sizing base_;
    std::vector<SingularPoint> singular_;
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

Level solve_level(const Study& study, const Part& part, const MeshMaker& make, const std::string& series, int index,
                  StudyObserver& observer, const LevelFields* before) {
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
            recover(study, *fields);
            if (study.error_bound) bound_error(study, level, *fields);
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
    SeriesRunner runner(study, part, result.series, observer);
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
