#pragma once
// Several series' verdicts on one quantity -> the one that stands in the headline.

#include <span>

#include "statistics/verdict.hpp"

namespace dotsift {

/// What several series together say of a quantity: the value and interval of the one with an interval whose finest mesh
/// has the smallest estimated error in the energy norm, which `series` names; where the intervals of others do not
/// overlap it, it reaches to their values, and says so. Throws std::invalid_argument for none.
QuantityVerdict combined_verdict(const QuantitySpec& quantity, std::span<const QuantityVerdict> verdicts);

}  // namespace dotsift
