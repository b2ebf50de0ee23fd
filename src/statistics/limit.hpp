#pragma once
// A value with its interval, held against the limits that it may have.

#include <cmath>
#include <string>

#include "study/study.hpp"

namespace dotsift {

enum class LimitAnswer { inside, outside, undecided };

const char* name_of(LimitAnswer answer);

struct LimitVerdict {
    LimitAnswer answer = LimitAnswer::undecided;
    bool highest = true;        ///< which of two limits it is: the one that the value is nearer to
    double stated = 0;          ///< that limit as the study gives it
    double allowed = 0;         ///< with the factor of safety
    double reserve = NAN;       ///< from the interval's end to it; negative: beyond
    double used = NAN;          ///< the value's share of it, 1 at the limit; NaN where a limit of zero has no shares
    double used_at_most = NAN;  ///< the same of the interval's end
    double deciding = NAN;      ///< the half-width below which the answer is clear
    std::string sentence;
};

/// `half_width` NaN: no interval is known. `converges` false: the exact value is infinite.
LimitVerdict judge_limit(const QuantityLimit& limit, double value, double half_width, bool converges,
                         const std::string& unit);

}  // namespace dotsift
