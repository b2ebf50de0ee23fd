#pragma once
// When a series ends, and by which rule.

#include <optional>
#include <string>

#include "series/judgement.hpp"
#include "series/run.hpp"

namespace dotsift {

struct Stop {
    std::string reason;  ///< in words
    bool target_met = true;
    bool by_target = false;  ///< of error, change or index: quantities may have others
};

/// Looks at the levels that are done; `seconds` is what they took, and `nothing_left` tells that what drives the series
/// is zero in every element. Nothing: another level is wanted.
std::optional<Stop> stop_after(const Study& study, const SeriesSpec& spec, const SeriesResult& done, double seconds,
                               bool nothing_left, const SingularPoints& singular);

/// Whether a series has a target of its own.
bool has_target(const SeriesSpec& spec);

}  // namespace dotsift
