#pragma once
// The one interval that is reported for a quantity.

#include <optional>
#include <string>
#include <vector>

#include "statistics/convergence.hpp"

namespace dotsift {

/// The finest value and the half-width of the 95 % interval about it.
struct Interval {
    double value = 0;
    double half_width = 0;  ///< NaN: none can be given
    std::string rule;       ///< how it was found, in words
    [[nodiscard]] bool known() const;
    [[nodiscard]] double relative() const;  ///< of the value; absolute where that is 0
};

/// How many times the error that a dual problem estimates makes an interval by itself.
inline constexpr double dual_safety_factor = 3;

/// Each of the last two changes shows an error of the finest value, by Richardson's extrapolation with the order p: the
/// last one |e21| / (r21^p - 1), the one before |e32| / (r32^p - 1) / r21^p. Where the order is what was observed, both
/// are the same. The larger counts, so that a change that is small by chance says nothing; times 1.25 where the changes
/// shrink with one sign (p: the used order), times 3 where they oscillate or scatter (p: the expected order); Roache's
/// factors. Growing changes have no interval. `dual_error` is the truth less the finest value as a dual problem
/// estimates it: it widens a smaller interval to itself, and stands in, times 3, where the levels give none.
/// Calibration: docs/verification.md.
Interval interval_of(const std::vector<LevelValue>& levels, const Convergence& convergence,
                     std::optional<double> dual_error = {}, double terms = 0);

}  // namespace dotsift
