#include "statistics/limit.hpp"

#include <fmt/format.h>

#include <array>
#include <limits>

#include "base/numbers.hpp"

namespace dotsift {

namespace {

/// Of a highest limit.
double share_of(double value, double allowed) {
    if (allowed == 0) return NAN;
    if (allowed > 0) return std::fmax(value, 0.0) / allowed;
    return value < 0 ? allowed / value : std::numeric_limits<double>::infinity();
}

std::string in_words(const LimitVerdict& v, double safety, const std::string& unit, double value, double half_width,
                     bool converges) {
    const auto with_unit = [&](const std::string& text) { return unit.empty() ? text : text + " " + unit; };
    const auto number = [&](double x) { return with_unit(sensible(x, 3)); };
    const auto given = [&](double x) { return with_unit(as_given(x)); };
    const std::string limit =
        safety == 1 ? given(v.stated)
                    : fmt::format("{} ({} with a factor of safety of {:g})", given(v.allowed), given(v.stated), safety);
    if (!converges) return fmt::format("No limit can be held against it; {} is wanted.", limit);
    const char* side = v.highest ? "below" : "above";
    const auto shares = [&] {
        if (!std::isfinite(v.used_at_most)) return fmt::format("reserve {}", number(v.reserve));
        return fmt::format("{} of it used, {} at most; reserve {}", percent(v.used), percent(v.used_at_most),
                           number(v.reserve));
    };
    switch (v.answer) {
        case LimitAnswer::inside:
            return fmt::format("It stays {} the limit of {}: {}.", side, limit, shares());
        case LimitAnswer::outside:
            return fmt::format("It is {} the limit of {}, by {} at least.", v.highest ? "above" : "below", limit,
                               number(std::fabs(value - v.allowed) - half_width));
        case LimitAnswer::undecided:
            break;
    }
    if (std::isnan(half_width))
        return fmt::format("Whether it stays {} the limit of {} is not decided: no interval is known.", side, limit);
    return fmt::format("Whether it stays {} the limit of {} is not decided: it takes an uncertainty of ± {}, now ± {}.",
                       side, limit, number(v.deciding), number(half_width));
}

}  // namespace

const char* name_of(LimitAnswer answer) {
    constexpr std::array names{"inside", "outside", "undecided"};
    return names[static_cast<std::size_t>(answer)];
}

LimitVerdict judge_limit(const QuantityLimit& limit, double value, double half_width, bool converges,
                         const std::string& unit) {
    LimitVerdict v;
    const double to_highest = limit.highest ? limit.allowed_highest() - value : std::numeric_limits<double>::infinity();
    const double to_lowest = limit.lowest ? value - limit.allowed_lowest() : std::numeric_limits<double>::infinity();
    v.highest = to_highest <= to_lowest;
    v.stated = v.highest ? *limit.highest : *limit.lowest;
    v.allowed = v.highest ? limit.allowed_highest() : limit.allowed_lowest();
    const double gap = v.highest ? to_highest : to_lowest, sign = v.highest ? 1 : -1;
    if (converges) {
        v.used = share_of(sign * value, sign * v.allowed);
        v.deciding = std::fabs(gap);
        if (!std::isnan(half_width)) {
            v.reserve = gap - half_width;
            v.used_at_most = share_of(sign * value + half_width, sign * v.allowed);
            // The interval may reach past the other limit as well.
            const double other = v.highest ? to_lowest : to_highest;
            if (gap >= half_width && other >= half_width)
                v.answer = LimitAnswer::inside;
            else if (gap < -half_width)
                v.answer = LimitAnswer::outside;
        }
    }
    v.sentence = in_words(v, limit.safety, unit, value, half_width, converges);
    return v;
}

}  // namespace dotsift
