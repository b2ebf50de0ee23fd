#include "statistics/combined.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <stdexcept>
#include <string>
#include <tuple>
#include <vector>

namespace dotsift {

namespace {

QuantityVerdict combination_of(const QuantitySpec& q, std::span<const QuantityVerdict> verdicts) {
    // The widths have no say in it: the narrowest of several intervals is the luckiest one.
    const auto rank = [](const QuantityVerdict& v) {
        return std::tuple(v.verdict != Verdict::unbounded && !v.interval.known(), v.estimated_error);
    };
    QuantityVerdict out = *std::min_element(verdicts.begin(), verdicts.end(),
                                            [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
    if (out.verdict == Verdict::unbounded || !out.interval.known()) return out;
    double widest = out.interval.half_width;
    std::vector<std::string> apart;
    for (const auto& v : verdicts) {
        if (!v.interval.known()) continue;
        const double gap = std::fabs(v.interval.value - out.interval.value);
        if (gap <= v.interval.half_width + out.interval.half_width) continue;
        apart.push_back(v.series);
        widest = std::max(widest, gap);
    }
    if (apart.empty()) return out;
    out.interval.half_width = widest;
    out.interval.rule +=
        fmt::format("; widened to the value of {}, whose interval does not overlap", fmt::join(apart, ", "));
    if (!out.caution.empty()) out.caution += " ";
    out.caution += fmt::format(
        "Series {} and {} disagree: their intervals do not overlap, so this one reaches from one "
        "value to the other.",
        out.series, fmt::join(apart, ", "));
    decide(q, out);
    return out;
}

}  // namespace

QuantityVerdict combined_verdict(const QuantitySpec& q, std::span<const QuantityVerdict> verdicts) {
    if (verdicts.empty()) throw std::invalid_argument("no verdict to combine");
    QuantityVerdict out = combination_of(q, verdicts);
    hold_to_limit(q, out);
    return out;
}

}  // namespace dotsift
