#pragma once
// Several series' verdicts on one quantity -> the one that stands in the headline.

#include <span>

#include "statistics/verdict.hpp"

namespace dotsift {

/// What several series together say of a quantity; `series` then names the one whose value it is. Throws
/// std::invalid_argument for none.
QuantityVerdict combined_verdict(const QuantitySpec& quantity, std::span<const QuantityVerdict> verdicts);

}  // namespace dotsift
