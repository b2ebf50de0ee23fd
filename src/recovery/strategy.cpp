#include "recovery/strategy.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace dotsift {

namespace {

/// Sum over the elements of (e^2)^(d/(2p+d)), which is the least number of elements up to a factor.
double sum_of_powers(const std::vector<double>& error2, double p, double d) {
    double sum = 0;
    for (const double e2 : error2) sum += std::pow(e2, d / (2 * p + d));
    return sum;
}

EvenShares even_shares(const std::vector<double>& error2, double common, double p, double d) {
    EvenShares out;
    out.factor.assign(error2.size(), INFINITY);
    for (std::size_t e = 0; e < error2.size(); ++e)
        if (error2[e] > 0) out.factor[e] = common * std::pow(error2[e], -1 / (2 * p + d));
    out.element_error2 = std::pow(common, 2 * p + d);
    return out;
}

std::vector<std::size_t> by_error(const std::vector<double>& error2) {
    std::vector<std::size_t> order(error2.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return error2[a] > error2[b]; });
    return order;
}

}  // namespace

EvenShares factors_for_error(const std::vector<double>& element_error2, double wanted_error2, int degree,
                             int dimension) {
    // factor_e = (wanted / sum)^(1/2p) * e_e^(-2/(2p+d)), sum = sum over j of (e_j^2)^(d/(2p+d))
    const double sum = sum_of_powers(element_error2, degree, dimension);
    if (!(sum > 0)) return {std::vector<double>(element_error2.size(), INFINITY), 0};
    return even_shares(element_error2, std::pow(wanted_error2 / sum, 1 / (2.0 * degree)), degree, dimension);
}

EvenShares factors_for_count(const std::vector<double>& element_error2, double elements, int degree, int dimension) {
    // The number of elements is common^-d * sum.
    const double sum = sum_of_powers(element_error2, degree, dimension);
    if (!(sum > 0)) return {std::vector<double>(element_error2.size(), INFINITY), 0};
    return even_shares(element_error2, std::pow(sum / elements, 1.0 / dimension), degree, dimension);
}

double factor_at_point(double element_error2, double wanted_error2, double exponent) {
    return element_error2 > 0 ? std::pow(wanted_error2 / element_error2, 1 / (2 * exponent)) : INFINITY;
}

std::vector<double> factors_for_share(const std::vector<double>& element_error2, double share, double finer) {
    std::vector<double> factor(element_error2.size(), 1.0);
    const auto order = by_error(element_error2);
    const auto count = static_cast<std::size_t>(std::ceil(share * static_cast<double>(order.size())));
    for (std::size_t k = 0; k < std::min(count, order.size()); ++k)
        if (element_error2[order[k]] > 0) factor[order[k]] = 1 / finer;
    return factor;
}

std::vector<double> factors_for_bulk(const std::vector<double>& element_error2, double share, double finer) {
    std::vector<double> factor(element_error2.size(), 1.0);
    const double all = std::accumulate(element_error2.begin(), element_error2.end(), 0.0);
    double held = 0;
    for (const std::size_t e : by_error(element_error2)) {
        if (held >= share * all || element_error2[e] <= 0) break;
        factor[e] = 1 / finer;
        held += element_error2[e];
    }
    return factor;
}

}  // namespace dotsift
