#include "statistics/combined.hpp"

#include <cmath>

namespace dotsift {

Interval combined_verdict(std::span<const QuantityVerdict> verdicts) {
    Interval best{0, NAN, "no series has an interval"};
    for (const auto& v : verdicts)
        if (v.interval.known() && !(best.half_width <= v.interval.half_width)) best = v.interval;
    return best;
}

}  // namespace dotsift
