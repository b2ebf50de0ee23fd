#include "series/prepare.hpp"

#include <fmt/format.h>

#include "mesh/generate.hpp"
#include "sizes/part_sizes.hpp"

namespace dotsift {

namespace {

constexpr double standard_merge = 1e-6;  // of the part's diagonal

}  // namespace

void prepare(Prepared& prepared, double finer) {
    const auto rule = prepared.opened.study.mesh.retry;
    if (!rule) return;
    const Study original = prepared.opened.study;
    const double merge = original.cleanup.merge_points.value_or(standard_merge * prepared.opened.part.box.diagonal());
    FailedTry now;
    for (std::int64_t k = 0;; ++k) {
        try {
            const Study& study = prepared.opened.study;
            const Part& part = prepared.opened.part;
            generate(part, sizing_of(part, study.sizes, study.path).scaled(1 / finer), study.sizes.most_elements,
                     study.mesh);
            return;
        } catch (const MeshError& e) {
            now.reason = e.what();
            now.place = e.place();
            prepared.failed.push_back(now);
            if (k == rule->tries)
                throw MeshError(fmt::format("no mesh, and none after {} more tries: {}", rule->tries, e.what()),
                                e.place(), e.remedy());
        }
        now.sizes *= rule->sizes;
        Study study = original;
        study.sizes.factor = now.sizes;
        if (rule->merge_points != 1) {
            now.merge_points = (now.merge_points > 0 ? now.merge_points : merge) * rule->merge_points;
            study.cleanup.merge_points = now.merge_points;
        }
        Problems problems(study.path.string());
        StudyAndPart changed = open_part(std::move(study), problems);
        problems.throw_if_any();  // points that became one may have taken what the study names
        prepared.opened = std::move(changed);
    }
}

}  // namespace dotsift
