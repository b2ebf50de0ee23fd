#pragma once
// What a shape of a study's list does to those above it, in the plane and in space.

#include "part/combine/step_rule.hpp"
#include "study/study.hpp"

namespace dotsift {

StepRule::Kind kind_of(Verb verb);

template <class Shape>
StepRule rule_of(const Shape& shape, int source) {
    return {kind_of(shape.verb), shape.region, static_cast<int>(shape.priority), shape.of, source};
}

/// Adds the rule's region to those that stand above. Throws InputError if `of` fits none of them.
void take_region(const StepRule& rule, std::vector<std::string>& regions);

}  // namespace dotsift
