#include "series/run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <optional>
#include <stdexcept>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "mesh/placed_mesh.hpp"
#include "mesh/plane/generate.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "quality/make_mesh.hpp"
#include "series/judgement.hpp"
#include "series/next_mesh.hpp"
#include "series/solve_level.hpp"
#include "series/stop_rules.hpp"

namespace dotsift {

namespace {

struct NotStored {};

/// How many elements the sizes ask for; stops counting beyond `enough`.
double expected_elements(const Part& part, const Sizing& sizes, double enough) {
    return estimate_elements(part, sizes, enough);
}
double expected_elements(const SolidPart& part, const SizingIn<3>& sizes, double enough) {
    return estimate_elements(part, sizes.field, enough);
}

/// The mesh that a series begins with, laid on the part.
std::shared_ptr<const Mesh> mesh_of_file(const Study& study, const Part& part, const SeriesSpec& spec,
                                         StudyObserver& observer) {
    Mesh mesh = laid_on_part(part, observer.mesh_in(spec.start_mesh));
    const Place place = place_in(study.path, spec.where);
    if (least_degree(mesh) != study.mesh.order)
        throw InputError(fmt::format("series.{} starts from {}, whose elements have order {}, but those of the study "
                                     "have order {}",
                                     spec.name, spec.start_mesh.string(), least_degree(mesh), study.mesh.order),
                         place, fmt::format("set mesh.order = {}", least_degree(mesh)));
    ready_for_solving(study, part, mesh);
    return std::make_shared<const Mesh>(std::move(mesh));
}

template <int D>
class SeriesRunner {
  public:
    SeriesRunner(const Study& study, const PartIn<D>& part, const std::vector<SeriesResult>& done,
                 StudyObserver& observer)
        : study_(study), part_(part), done_(done), observer_(observer), chooser_(study, part) {}

    /// Into `result`, which keeps what is done if an error ends it.
    void run(const SeriesSpec& spec, SeriesResult& result) {
        result.name = spec.name;
        result.kind = spec.kind;
        const Level* start = start_of(spec);
        const std::shared_ptr<const MeshIn<D>> given = given_mesh(spec);
        const SizingIn<D> first = chooser_.first_sizes(start ? &fields_of<D>(*start)->mesh : given.get());
        NextMeshIn<D> next{first, {}, {}};
        double seconds = 0;
        for (;;) {
            const int index = static_cast<int>(result.levels.size()) + 1;
            try {
                result.levels.push_back(level(next, spec, index, start, given.get()));
            } catch (const NotStored&) {
                result.stopped_by = fmt::format("what is stored: {} level{}", result.levels.size(),
                                                result.levels.size() == 1 ? "" : "s");
                result.target_met = !has_target(spec);
                return;
            }
            for (const auto& c : result.levels.back().costs) seconds += c.seconds;
            DrivingError driving;
            if (spec.kind == SeriesKind::adaptive) driving = driving_error(study_, spec, result.levels.back());
            const bool nothing_left =
                spec.kind == SeriesKind::adaptive && spec.strategy != Strategy::target && !(driving.map.error2 > 0);
            if (const auto stop = stop_after(study_, spec, result, seconds, nothing_left, singular())) {
                result.stopped_by = stop->reason;
                result.target_met = stop->target_met;
                result.by_target = stop->by_target;
                break;
            }
            next = chooser_.next(spec, first, next.sizes, result.levels.back(), driving, index);
            next.before = fields_of<D>(result.levels.back());
            const double most = static_cast<double>(std::min(spec.most_elements, study_.sizes.most_elements));
            const double expected = expected_elements(part_, next.sizes, 2 * most);
            if (expected > most) {
                result.stopped_by = fmt::format(
                    "the limit of {} elements: the next level would have {}", grouped(static_cast<long long>(most)),
                    expected >= 2 * most ? "at least twice as many" : "about " + grouped(std::llround(expected)));
                result.target_met = !has_target(spec);
                break;
            }
        }
    }

    [[nodiscard]] SingularPoints singular() const {
        return {chooser_.singular(), same_point_share * part_.box.diagonal()};
    }

    /// A stored level could not be used: nothing may be made of the rest.
    [[nodiscard]] bool stored_fault() const { return stored_fault_; }

  private:
    /// Stored, shared, or solved.
    Level level(const NextMeshIn<D>& next, const SeriesSpec& spec, int index, const Level* start,
                const MeshIn<D>* given) {
        std::optional<Level> stored;
        try {
            stored = observer_.stored(spec.name, index);
        } catch (const Error&) {
            stored_fault_ = true;
            throw;
        }
        if (stored) {
            if (index == 1 && !start && !given_file(spec) && !first_) first_ = stored;
            return std::move(*stored);
        }
        Level l;
        if (!observer_.may_solve()) throw NotStored();
        if (index == 1 && !given && (start || first_)) {
            l = start ? *start : *first_;  // a mesh that is there already
            l.series = spec.name;
            l.index = 1;
        } else {
            const auto make = [&](MeshingLog& log) {
                if (index == 1 && given) return as_given(*given, next.sizes.field);
                if constexpr (D == 2)
                    if (!next.anew.empty()) {
                        RemeshCounts counts;
                        return remake_mesh(study_, part_, next.before->mesh, next.before->wanted_size, next.anew,
                                           next.sizes.field, counts);
                    }
                return make_mesh(study_, part_, next.sizes, log);
            };
            l = solve_level(study_, part_, chooser_.singular(), make, spec.name, index, observer_, next.before.get());
            if (index == 1 && !given) first_ = l;
        }
        observer_.level_done(l);
        return l;
    }

    static bool given_file(const SeriesSpec& spec) { return !spec.start_mesh.empty(); }

    /// The mesh file that a series begins with, laid on the part; null: there is none, or nothing is solved.
    std::shared_ptr<const MeshIn<D>> given_mesh(const SeriesSpec& spec) {
        if (!given_file(spec) || !observer_.may_solve()) return nullptr;
        if constexpr (D == 2) {
            return mesh_of_file(study_, part_, spec, observer_);
        } else {
            return nullptr;  // the check of the study refused it
        }
    }
    static MadeMeshIn<D> as_given(const MeshIn<D>& mesh, const SizeFieldIn<D>& field) {
        MadeMeshIn<D> made;
        made.mesh = mesh;
        for (std::size_t e = 0; e < mesh.element_count(); ++e) made.wanted.push_back(field.at(mesh.centre_of(e)));
        return made;
    }

    /// The level that a series begins with instead of the study's own sizes.
    const Level* start_of(const SeriesSpec& spec) const {
        if (!spec.start) return nullptr;
        for (const auto& s : done_) {
            if (s.name != spec.start->series) continue;
            const auto level = static_cast<std::size_t>(spec.start->level);
            if (level <= s.levels.size()) return &s.levels[level - 1];
            if (!observer_.may_solve()) return nullptr;  // its own levels are not stored then either
            const Place place = place_in(study_.path, spec.where);
            throw InputError(fmt::format("series.{} starts from level {} of series {}, which ended with level {}",
                                         spec.name, level, s.name, s.levels.size()),
                             place, "start from an earlier level; resume keeps those that are solved");
        }
        return nullptr;  // the reader saw that it is there
    }

    const Study& study_;
    const PartIn<D>& part_;
    const std::vector<SeriesResult>& done_;  // the series before this one
    StudyObserver& observer_;
    MeshChooser<D> chooser_;
    std::optional<Level> first_;
    bool stored_fault_ = false;
};

}  // namespace

const Level* finest_level(const StudyResult& result) {
    const Level* finest = nullptr;
    for (const auto& s : result.series)
        for (const auto& l : s.levels)
            if (!finest || l.unknowns > finest->unknowns) finest = &l;
    return finest;
}

bool StudyResult::all_limits_kept() const {
    return std::none_of(headline.begin(), headline.end(),
                        [](const QuantityVerdict& v) { return v.limit && v.limit->answer != LimitAnswer::inside; });
}

bool StudyResult::all_targets_met() const {
    if (!failures.empty()) return false;
    for (const auto& s : series) {
        if (!s.target_met) return false;
    }
    // A quantity's target is met if what all series say together meets it.
    for (std::size_t q = 0; q < headline.size(); ++q)
        if (headline[q].has_target && headline[q].verdict != Verdict::met) return false;
    return true;
}

namespace {

template <int D>
StudyResult run_all(const Study& study, const PartIn<D>& part, StudyObserver& observer) {
    StudyResult result;
    SeriesRunner<D> runner(study, part, result.series, observer);
    for (const auto& spec : study.series) {
        SeriesResult series;
        const auto any = [&] { return !series.levels.empty() || finest_level(result) != nullptr; };
        const auto keep = [&](const Error& e) {
            series.stopped_by = fmt::format("a failure: {}", e.what());
            series.target_met = false;
            result.failures.push_back(e);
        };
        try {
            runner.run(spec, series);
        } catch (const Error& e) {
            if (!any() || e.status() == ExitStatus::file_trouble || runner.stored_fault()) throw;
            keep(e);
        } catch (const std::logic_error& e) {  // a fault of the program, which must not cost what was computed
            if (!any()) throw;
            keep(SolveError(fmt::format("unexpected: {}", e.what()), {}, "please report this with the study file"));
        }
        result.series.push_back(std::move(series));
    }
    judge_all(study, result.series, runner.singular());
    result.headline = headline_of(study, result.series);
    if (const Level* finest = finest_level(result))
        result.singular_places = places_of(study, *finest, runner.singular());
    result.shared = shared_measures(study, part, result.series);
    return result;
}

}  // namespace

StudyResult run_study(const Study& study, const Part& part, StudyObserver& observer) {
    return run_all<2>(study, part, observer);
}
StudyResult run_study(const Study& study, const SolidPart& part, StudyObserver& observer) {
    return run_all<3>(study, part, observer);
}
StudyResult run_study(const StudyAndPart& opened, StudyObserver& observer) {
    return opened.solid ? run_study(opened.study, *opened.solid, observer)
                        : run_study(opened.study, opened.part, observer);
}

}  // namespace dotsift
