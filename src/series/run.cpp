#include "series/run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "mesh/generate.hpp"
#include "quality/make_mesh.hpp"
#include "recovery/recover.hpp"
#include "recovery/resize.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"

namespace dotsift {

namespace {

// Evidence needs three levels: an order cannot be seen with fewer.
constexpr std::size_t levels_for_evidence = 3;
// One adaptive step aims at an error this many times smaller. Larger steps trust the coarse mesh's error map too far.
constexpr double boldest_step = 3;
// And at least this many: levels that hardly differ cost a solve and show no order.
constexpr double mildest_step = 2;
// Aims a little below the target, so that it is not missed by a hair and paid for with another level.
constexpr double aim = 0.85;

// A field whose energy is below this share of what its size would suggest is rounding: there is no flow, or no stress.
constexpr double rounding_energy = 1e-16;

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
        for (;;) {
            const int index = static_cast<int>(result.levels.size()) + 1;
            try {
                result.levels.push_back(level(sizes, spec.name, index));
            } catch (const Interrupted&) {
                result.stopped_by = "interrupted";
                result.target_met = false;
                return result;
            }
            if (ends(spec, result)) break;
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
    static bool has_target(const SeriesSpec& s) { return s.error_target || s.change_target; }

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

    /// Whether the series is done, and by which rule.
    bool ends(const SeriesSpec& spec, SeriesResult& r) const {
        const Level& last = r.levels.back();
        const std::size_t n = r.levels.size();
        const double change = n > 1 ? largest_change(study_, r.levels[n - 2], last) : INFINITY;
        const bool error_met = spec.error_target && last.estimated_error <= *spec.error_target;
        const bool change_met = spec.change_target && change <= *spec.change_target;
        if (n >= levels_for_evidence && (error_met || change_met)) {
            r.stopped_by =
                error_met ? fmt::format("the error target: estimated {} of {}", percent(last.estimated_error),
                                        percent(*spec.error_target))
                          : fmt::format("the change target: {} of {}", percent(change), percent(*spec.change_target));
            return true;
        }
        if (n >= static_cast<std::size_t>(spec.most_levels)) {
            r.stopped_by = fmt::format("the limit of {} levels", spec.most_levels);
            r.target_met = !has_target(spec) || error_met || change_met;
            return true;
        }
        return false;
    }

    Sizing next_sizes(const SeriesSpec& spec, const Level& last, int levels) const {
        if (spec.kind == SeriesKind::uniform) return base_.scaled(std::pow(spec.ratio, -levels));
        const double target = spec.error_target.value_or(0);
        const double wanted =
            std::clamp(aim * target, last.estimated_error / boldest_step, last.estimated_error / mildest_step);
        ResizeLimits limits;
        limits.smallest = study_.sizes.smallest.value_or(0);
        limits.largest = 2 * base_.field.global();
        limits.growth = study_.sizes.growth;
        return {
            resize(last.fields->mesh, last.fields->error, wanted, limits).with(curvature_sources(part_, study_.sizes)),
            {},
            base_.layers};
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
            for (auto& s : solve_cases(mesh, study)) fields->cases.push_back({std::move(s), {}, {}});
            level.costs.push_back(meter.finish());
        }
        {
            const CostMeter meter = begin("estimate");
            recover(mesh, laws, study, *fields);
            level.estimated_error = fields->error.relative();
            level.quantities = evaluate_quantities(study, mesh, laws, fields->cases);
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
        for (std::size_t q = 0; q < study.quantities.size(); ++q) {
            std::vector<LevelValue> values;
            double scale = 0;
            for (const auto& l : series.levels)
                if (values.empty() || l.mesh.characteristic_size < values.back().h)
                    values.push_back({l.mesh.characteristic_size, l.quantities[q].value});
            for (const auto& l : series.levels) scale = std::max(scale, l.quantities[q].scale);
            const auto& quantity = study.quantities[q];
            series.verdicts.push_back(judge_quantity(quantity, series.name, values, unit_of(study, quantity), scale));
        }
        result.series.push_back(std::move(series));
        if (result.interrupted) break;
    }
    return result;
}

}  // namespace dotsift
