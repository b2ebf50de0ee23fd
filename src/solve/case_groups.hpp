#pragma once
// Load cases whose systems differ, and temperatures that their conductivity follows.

#include <functional>
#include <vector>

#include "study/study.hpp"

namespace dotsift {

/// Load cases that share their systems: all of them, or one each where materials change with the temperature.
std::vector<std::vector<CaseSpec>> case_groups(const Study& study);

/// A temperature that solves the equation whose conductivity it makes: `solved` tells, again and again, what the linear
/// equation with the conductivity of the last one gives (Picard). At first the reference everywhere, or `start` if it
/// has as many values. Throws SolveError if it does not settle.
std::vector<double> settled_temperature(std::size_t slots, double reference, const std::vector<double>& start,
                                        const std::function<std::vector<double>(const std::vector<double>&)>& solved);

}  // namespace dotsift
