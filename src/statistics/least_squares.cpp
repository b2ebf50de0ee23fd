#include "statistics/least_squares.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>
#include <stdexcept>

#include "base/dense.hpp"

namespace dotsift {

namespace {

constexpr std::size_t least_levels = 4;
constexpr double least_credible_order = 0.5;
constexpr double credible_excess = 0.1;  // an order this far above the formal one is still credible
constexpr double good_factor = 1.25, poor_factor = 3;

// Where the free power is looked for: values that a power beyond fits best have no order.
constexpr double lowest_power = 0.01, highest_power = 30;
constexpr int power_steps = 200;

ExpansionFit fitted(const std::vector<LevelValue>& levels, std::vector<double> powers, bool free_power, bool weighted) {
    const auto n = static_cast<Eigen::Index>(levels.size());
    const auto m = static_cast<Eigen::Index>(powers.size());
    // Sizes and values of about one.
    const double h = levels.back().h, middle = levels.back().value;
    double spread = 0, weights = 0;
    for (const auto& l : levels) {
        spread = std::max(spread, std::fabs(l.value - middle));
        weights += 1 / l.h;
    }
    if (!(spread > 0)) spread = 1;
    Eigen::MatrixXd a(n, m + 1);
    Eigen::VectorXd b(n), w(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const auto& l = levels[static_cast<std::size_t>(i)];
        // n w_i: the weights have the sum n, so that both deviations can be compared.
        w[i] = weighted ? std::sqrt(static_cast<double>(n) / l.h / weights) : 1;
        a(i, 0) = w[i];
        for (Eigen::Index j = 0; j < m; ++j)
            a(i, j + 1) = w[i] * std::pow(l.h / h, powers[static_cast<std::size_t>(j)]);
        b[i] = w[i] * (l.value - middle) / spread;
    }
    const Eigen::VectorXd x = OrthogonalFactor(a).solve(b);
    const double freedom = static_cast<double>(n - m - 1 - (free_power ? 1 : 0));
    ExpansionFit fit;
    fit.weighted = weighted;
    fit.limit = middle + spread * x[0];
    fit.at_finest = fit.limit;
    for (Eigen::Index j = 0; j < m; ++j) {
        const double power = powers[static_cast<std::size_t>(j)];
        fit.coefficients.push_back(spread * x[j + 1] / std::pow(h, power));
        fit.at_finest += spread * x[j + 1];
    }
    fit.deviation = spread * (product(a, x) - b).norm() / std::sqrt(freedom);
    fit.powers = std::move(powers);
    return fit;
}

/// The power with the smallest deviation; none if that lies at an end of what is looked at.
std::optional<ExpansionFit> free_power(const std::vector<LevelValue>& levels, bool weighted) {
    const auto power = [](double k) { return lowest_power * std::pow(highest_power / lowest_power, k / power_steps); };
    const auto deviation = [&](double k) { return fitted(levels, {power(k)}, true, weighted).deviation; };
    int best = 0;
    double least = std::numeric_limits<double>::infinity();
    for (int k = 0; k <= power_steps; ++k)
        if (const double d = deviation(k); d < least) {
            least = d;
            best = k;
        }
    if (best == 0 || best == power_steps) return {};
    // Golden section between the neighbours.
    const double golden = (std::sqrt(5.0) - 1) / 2;
    double low = best - 1, high = best + 1;
    double left = high - golden * (high - low), right = low + golden * (high - low);
    double at_left = deviation(left), at_right = deviation(right);
    while (high - low > 1e-9) {
        if (at_left < at_right) {
            high = right;
            right = left;
            at_right = at_left;
            at_left = deviation(left = high - golden * (high - low));
        } else {
            low = left;
            left = right;
            at_left = at_right;
            at_right = deviation(right = low + golden * (high - low));
        }
    }
    return fitted(levels, {power(0.5 * (low + high))}, true, weighted);
}

}  // namespace

std::string ExpansionFit::expansion() const {
    std::string text;
    for (std::size_t k = 0; k < powers.size(); ++k)
        text +=
            fmt::format("{}{} h{}", k ? " + " : "", "ab"[k], powers[k] == 1 ? "" : fmt::format("^{:.3g}", powers[k]));
    return text;
}

LeastSquaresUncertainty least_squares_uncertainty(const std::vector<LevelValue>& levels, double formal_order) {
    if (levels.size() < least_levels)
        throw std::invalid_argument(
            fmt::format("a least-squares fit needs {} levels, but there are {}", least_levels, levels.size()));
    LeastSquaresUncertainty out;
    out.observed_order = std::numeric_limits<double>::quiet_NaN();
    std::optional<ExpansionFit> best;
    const auto offer = [&](const ExpansionFit& fit) {
        if (!best || fit.deviation < best->deviation) best = fit;
    };
    for (const bool weighted : {false, true})
        if (const auto fit = free_power(levels, weighted)) offer(*fit);
    if (best) out.observed_order = best->powers.front();
    const bool too_low = !best || out.observed_order < least_credible_order;
    if (too_low || out.observed_order > formal_order) {
        best.reset();
        for (const bool weighted : {false, true}) {
            offer(fitted(levels, {1}, false, weighted));
            offer(fitted(levels, {formal_order}, false, weighted));
            if (too_low) offer(fitted(levels, {1, formal_order}, false, weighted));
        }
    }
    out.fit = *best;
    double low = levels.front().value, high = low;
    for (const auto& l : levels) {
        low = std::min(low, l.value);
        high = std::max(high, l.value);
    }
    out.range = (high - low) / static_cast<double>(levels.size() - 1);
    const bool credible =
        out.observed_order >= least_credible_order && out.observed_order < formal_order + credible_excess;
    const bool good = out.fit.deviation < out.range;
    out.safety_factor = credible && good ? good_factor : poor_factor;
    const double fine = levels.back().value, error = std::fabs(fine - out.fit.limit),
                 gap = std::fabs(fine - out.fit.at_finest);
    if (good)
        out.half_width = out.safety_factor * error + out.fit.deviation + gap;
    else if (out.range > 0)
        out.half_width = poor_factor * out.fit.deviation / out.range * (error + out.fit.deviation + gap);
    return out;
}

}  // namespace dotsift
