#include "statistics/combined.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <stdexcept>
#include <vector>

#include "base/numbers.hpp"

namespace dotsift {

QuantityVerdict combined_verdict(const QuantitySpec& q, std::span<const QuantityVerdict> verdicts) {
    if (verdicts.empty()) throw std::invalid_argument("no verdict to combine");
    const auto width = [](const QuantityVerdict& v) { return v.interval.known() ? v.interval.half_width : INFINITY; };
    const auto best = std::min_element(verdicts.begin(), verdicts.end(),
                                       [&](const auto& a, const auto& b) { return width(a) < width(b); });
    QuantityVerdict out = *best;
    decide(q, out);
    return out;
}

}  // namespace dotsift
