#pragma once
// Several series' intervals for one quantity -> the one that stands in the headline.

#include <span>

#include "statistics/verdict.hpp"

namespace dotsift {

/// The value and interval that several series have together.
Interval combined_verdict(std::span<const QuantityVerdict> verdicts);

}  // namespace dotsift
