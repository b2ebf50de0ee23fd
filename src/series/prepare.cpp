#include "series/prepare.hpp"

#include <fmt/format.h>

#include "sizes/part_sizes.hpp"

namespace dotsift {

namespace {

constexpr double standard_merge = 1e-6;  // of the part's diagonal

/// The study with a try's changes, opened. Throws InputError if they make it faulty: points that became one may have
/// taken what it names.
StudyAndPart changed(Study study, const FailedTry& change) {
    study.sizes.factor = change.sizes;
    if (change.merge_points > 0) study.cleanup.merge_points = change.merge_points;
    Problems problems(study.path.string());
    StudyAndPart opened = open_part(std::move(study), problems);
    problems.throw_if_any();
    return opened;
}

/// make(opened, log) makes the mesh.
template <class Make>
auto with_tries(Prepared& prepared, Make make) {
    const Study original = prepared.opened.study;
    const auto& rule = original.mesh.retry;
    FailedTry now;
    for (std::int64_t k = 0;; ++k) {
        try {
            if (k > 0) prepared.opened = changed(original, now);
            prepared.log = {};
            return make(prepared.opened, prepared.log);
        } catch (const Error& e) {
            // The study as it stands may be wrong; what a change makes wrong is only a try that failed.
            if (!rule || (k == 0 && !dynamic_cast<const MeshError*>(&e))) throw;
            now.reason = e.what();
            now.place = e.place();
            prepared.failed.push_back(now);
            if (k == rule->tries)
                throw MeshError(fmt::format("no mesh, and none after {} more tries: {}", rule->tries, e.what()),
                                e.place(), e.remedy());
        }
        now.sizes *= rule->sizes;
        if (rule->merge_points == 1) continue;
        if (now.merge_points == 0)
            now.merge_points =
                original.cleanup.merge_points.value_or(standard_merge * prepared.opened.part.box.diagonal());
        now.merge_points *= rule->merge_points;
    }
}

}  // namespace

MadeMesh first_mesh(Prepared& prepared, double finer) {
    return with_tries(prepared, [&](const StudyAndPart& opened, MeshingLog& log) {
        const Study& study = opened.study;
        return make_mesh(study, opened.part, sizing_of(opened.part, study.sizes, study.path).scaled(1 / finer), log);
    });
}

MadeMeshIn<3> first_solid_mesh(Prepared& prepared, double finer) {
    return with_tries(prepared, [&](const StudyAndPart& opened, MeshingLog& log) {
        const Study& study = opened.study;
        return make_mesh(study, *opened.solid, sizing_of(*opened.solid, study.sizes, study.path).scaled(1 / finer),
                         log);
    });
}

}  // namespace dotsift
