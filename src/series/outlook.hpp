#pragma once
// Which level is enough, and what another one would bring.

#include <optional>
#include <string>
#include <vector>

#include "series/run.hpp"

namespace dotsift {

/// What all series together say of a quantity; null if there is none.
const QuantityVerdict* best_verdict(const StudyResult& result, std::size_t quantity);

/// The level with the fewest unknowns on which every quantity that has a target lies so near to the best value that,
/// with that value's own interval, the target is met. Nothing if no quantity has a target or one is not met.
const Level* recommended_level(const Study& study, const StudyResult& result);

/// What one more level of a series would be: its unknowns and time from the growth so far, and the half-widths of the
/// intervals, relative to the values, if the changes go on with the order that the interval was found with.
struct NextLevel {
    double unknowns = 0, seconds = 0;
    std::vector<double> half_widths;  ///< of each quantity; NaN: not known
};

/// Nothing with fewer than two levels.
std::optional<NextLevel> next_level(const SeriesSpec& spec, const SeriesResult& series);

double seconds_of(const Level& level);
double peak_bytes_of(const Level& level);

}  // namespace dotsift
