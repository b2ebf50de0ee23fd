#pragma once
// What an adaptive series follows: the energy norm's error, indicators, the errors of quantities, or several of these.

#include "recovery/estimate.hpp"
#include "series/level.hpp"
#include "study/study.hpp"

namespace dotsift {

struct DrivingError {
    /// What each element contributes. The contributions to a quantity's error have the order of a squared norm:
    /// relative() is then the root of their sum over the quantity.
    ErrorMap map;
    double target = 0;  ///< the series' error_target, in terms of map.relative()
};

/// Several drivers: each one's contributions as multiples of its target (without a target, of 1), added up, so that the
/// one that is farthest from it leads. Several indicators of the energy norm: each one's contributions as shares of its
/// sum, added up.
DrivingError driving_error(const Study& study, const SeriesSpec& spec, const Level& last);

/// The relative error that a series' error_target is compared with: the largest of its drivers.
double estimated_error(const Study& study, const SeriesSpec& spec, const Level& level);

}  // namespace dotsift
