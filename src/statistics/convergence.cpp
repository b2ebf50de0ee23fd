#include "statistics/convergence.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <stdexcept>

namespace dotsift {

namespace {

// The asymptotic range: the ratio of the indices within this of 1, the observed order within this share of the expected
// one, and two successive orders within this of each other.
constexpr double asymptotic_order_share = 0.25;
constexpr double asymptotic_ratio_range = 0.1;
constexpr double asymptotic_order_range = 0.5;
// Values within this share of each other whose changes do not shrink scatter with the mesh; a value that truly grows
// without bound changes by far more from level to level.
constexpr double scatter_share = 0.005;
constexpr double highest_order = 30;  // what no method reaches; the search for the order ends there

}  // namespace

const char* name_of(Behaviour b) {
    switch (b) {
        case Behaviour::too_few:
            return "too few levels";
        case Behaviour::settled:
            return "settled";
        case Behaviour::monotone:
            return "monotone";
        case Behaviour::oscillating:
            return "oscillating";
        case Behaviour::scattered:
            return "scattered";
        case Behaviour::diverging:
            return "diverging";
    }
    return "";
}

double observed_order(const LevelValue& fine, const LevelValue& middle, const LevelValue& coarse) {
    const double e21 = middle.value - fine.value, e32 = coarse.value - middle.value;
    if (e21 == 0 || e32 == 0) return NAN;
    const double r21 = middle.h / fine.h, r32 = coarse.h / middle.h;
    const double wanted = std::fabs(e32 / e21), s = e32 / e21 > 0 ? 1 : -1;
    // The right side grows with p, from ln r32 / ln r21 (or 1, alternating) at p = 0, so bisection finds the only root.
    const auto side = [&](double p) { return std::pow(r21, p) * (std::pow(r32, p) - s) / (std::pow(r21, p) - s); };
    double low = 1e-6, high = highest_order;
    if (!(side(low) < wanted) || !(side(high) > wanted)) return NAN;
    for (int k = 0; k < 200 && high - low > 1e-14 * high; ++k) {
        const double p = 0.5 * (low + high);
        (side(p) < wanted ? low : high) = p;
    }
    return 0.5 * (low + high);
}

double rounding_of(const std::vector<LevelValue>& levels, double terms) {
    const std::size_t last = std::min<std::size_t>(levels.size(), 3);
    double size = terms;
    for (std::size_t k = levels.size() - last; k < levels.size(); ++k)
        size = std::max(size, std::fabs(levels[k].value));
    return rounding_share * size;
}

Convergence judge_convergence(const std::vector<LevelValue>& levels, double expected_order, double terms) {
    for (std::size_t i = 0; i < levels.size(); ++i) {
        if (!std::isfinite(levels[i].value) || !std::isfinite(levels[i].h) || !(levels[i].h > 0))
            throw std::invalid_argument(fmt::format("level {} has no finite value or no size above zero", i + 1));
        if (i > 0 && !(levels[i].h < levels[i - 1].h))
            throw std::invalid_argument(fmt::format("the size of level {} is not below that of level {}", i + 1, i));
    }
    Convergence c;
    c.levels = static_cast<int>(levels.size());
    c.expected_order = expected_order;
    c.observed_order = c.earlier_order = c.used_order = c.extrapolated = c.gci_fine = c.gci_coarse =
        c.asymptotic_ratio = c.change = NAN;
    if (levels.empty()) return c;
    const LevelValue& fine = levels.back();
    c.finest = fine.value;
    if (levels.size() < 2) return c;
    const LevelValue& middle = levels[levels.size() - 2];
    const double scale = std::fabs(fine.value);
    c.change = scale > 0 ? std::fabs(fine.value - middle.value) / scale : std::fabs(fine.value - middle.value);
    if (levels.size() < 3) return c;
    const LevelValue& coarse = levels[levels.size() - 3];
    const double e21 = middle.value - fine.value, e32 = coarse.value - middle.value;
    const double r21 = middle.h / fine.h, r32 = coarse.h / middle.h;
    const double rounding = rounding_of(levels, terms);
    if (std::fabs(e21) <= rounding && std::fabs(e32) <= rounding) {
        c.behaviour = Behaviour::settled;
        c.extrapolated = fine.value;
        c.asymptotic = true;
        return c;
    }
    if (levels.size() > 3) c.least_squares = least_squares_uncertainty(levels, expected_order);
    c.observed_order = observed_order(fine, middle, coarse);
    if (levels.size() > 3) c.earlier_order = observed_order(middle, coarse, levels[levels.size() - 4]);
    if (e21 * e32 < 0) {
        c.behaviour = Behaviour::oscillating;
        return c;
    }
    if (e21 == 0) {  // it settles from one level to the next
        c.behaviour = Behaviour::monotone;
        c.used_order = expected_order;
        c.extrapolated = fine.value;
        return c;
    }
    if (!std::isfinite(c.observed_order)) {
        const double largest = std::max(std::fabs(e21), std::fabs(e32));
        c.behaviour =
            largest <= scatter_share / rounding_share * rounding ? Behaviour::scattered : Behaviour::diverging;
        return c;
    }
    c.behaviour = Behaviour::monotone;
    c.used_order = std::clamp(c.observed_order, std::min(least_order, expected_order), expected_order);
    const double p = c.used_order;
    c.extrapolated = fine.value - e21 / (std::pow(r21, p) - 1);
    const bool expected =
        c.observed_order >= least_order && c.observed_order <= expected_order + asymptotic_order_range;
    c.safety_factor = expected ? usual_safety_factor : cautious_safety_factor;
    const auto index = [&](double e, double r, double value) {
        return value != 0 ? c.safety_factor * std::fabs(e / value) / (std::pow(r, p) - 1) : NAN;
    };
    c.gci_fine = index(e21, r21, fine.value);
    c.gci_coarse = index(e32, r32, middle.value);
    c.asymptotic_ratio = c.gci_coarse / (std::pow(r21, p) * c.gci_fine);
    c.asymptotic = expected && std::fabs(c.asymptotic_ratio - 1) <= asymptotic_ratio_range &&
                   std::fabs(c.observed_order - expected_order) <= asymptotic_order_share * expected_order &&
                   (levels.size() == 3 || std::fabs(c.earlier_order - c.observed_order) <= asymptotic_order_range);
    return c;
}

}  // namespace dotsift
