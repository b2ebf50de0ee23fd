#include "part/shapes/shape_rule.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.hpp"
#include "study/share.hpp"

namespace dotsift {

StepRule::Kind kind_of(Verb verb) {
    switch (verb) {
        case Verb::add:
            return StepRule::Kind::add;
        case Verb::cut:
            return StepRule::Kind::cut;
        case Verb::intersect:
            return StepRule::Kind::intersect;
        default:
            return StepRule::Kind::line;
    }
}

void take_region(const StepRule& rule, std::vector<std::string>& regions) {
    for (const auto& pattern : rule.of) {
        if (std::any_of(regions.begin(), regions.end(), [&](const auto& r) { return fits_pattern(r, pattern); }))
            continue;
        const std::string near = nearest(pattern, regions);
        throw InputError(fmt::format("of = \"{}\" fits no region that stands above", pattern), {},
                         near.empty() ? fmt::format("regions are {}", quoted_list(regions))
                                      : fmt::format("did you mean \"{}\"?", near));
    }
    if (rule.kind == StepRule::Kind::add && std::find(regions.begin(), regions.end(), rule.region) == regions.end())
        regions.push_back(rule.region);
}

}  // namespace dotsift
