#include "sizes/sizing.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"

namespace dotsift {

std::vector<double> EdgeDivision::shares() const {
    const auto n = static_cast<std::size_t>(count);
    std::vector<double> weight(n, 1.0);
    if (n > 1 && bias > 1) {
        const auto last = static_cast<double>(n - 1);
        for (std::size_t k = 0; k < n; ++k) {
            const double t = static_cast<double>(k) / last;  // 0 at the first piece, 1 at the last
            double power = t;                                // 0 where it is shortest
            if (finer == Finer::end) power = 1 - t;
            // With an even number of pieces two in the middle are alike.
            if (finer == Finer::ends || finer == Finer::middle) {
                const double inner = n % 2 == 0 ? last - 1 : last;
                power = inner > 0 ? std::min(std::min(t, 1 - t) * last / (inner / 2), 1.0) : 0;
                if (finer == Finer::middle) power = 1 - power;
            }
            weight[k] = std::pow(bias, power);
        }
    }
    double sum = 0;
    for (const double w : weight) sum += w;
    std::vector<double> shares{0};
    for (const double w : weight) shares.push_back(shares.back() + w / sum);
    shares.back() = 1;
    return shares;
}

double EdgeLayers::total() const {
    return heights().back();
}

std::vector<double> EdgeLayers::heights() const {
    std::vector<double> tops;
    double height = first, sum = 0;
    for (std::int64_t k = 0; k < rows; ++k, height *= growth) tops.push_back(sum += height);
    return tops;
}

namespace {

void scale(EdgeDivision& d, double factor) {
    d.count = std::max<std::int64_t>(1, std::llround(static_cast<double>(d.count) / factor));
}

/// The rows are samples of one geometric curve: finer ones grow less from one to the next (growth^(old/new)).
void scale(EdgeLayers& l, double factor) {
    const auto rows = std::max<std::int64_t>(1, std::llround(static_cast<double>(l.rows) / factor));
    const double total = l.total();
    l.growth = std::pow(l.growth, static_cast<double>(l.rows) / static_cast<double>(rows));
    l.rows = rows;
    l.first = 1;
    l.first = total / l.total();
}

}  // namespace

template <int D>
SizingIn<D> SizingIn<D>::scaled(double factor) const {
    SizingIn out = *this;
    out.field = field.scaled(factor);
    for (auto& d : out.divisions) scale(d, factor);
    for (auto& l : out.layers) scale(l, factor);
    return out;
}

template <int D>
SizingIn<D> SizingIn<D>::scaled(double factor, const std::vector<int>& rules,
                                const std::vector<int>& layer_rules) const {
    const auto has = [](const std::vector<int>& list, int rule) {
        return std::find(list.begin(), list.end(), rule) != list.end();
    };
    SizingIn out = *this;
    out.field = field.scaled(factor, rules);
    for (auto& d : out.divisions)
        if (has(rules, d.rule)) scale(d, factor);
    for (auto& l : out.layers)
        if (has(layer_rules, l.rule)) scale(l, factor);
    return out;
}

template struct SizingIn<2>;
template struct SizingIn<3>;

double within_element_limit(double expected, std::int64_t most_elements) {
    const double most = static_cast<double>(most_elements);
    if (expected > surely_too_many * most)
        throw InputError(
            fmt::format("the sizes ask for {}{:.3g} elements, more than the limit of {}",
                        expected >= plainly_too_many * most ? "more than " : "about ", expected, most_elements),
            {}, "ask for larger sizes or raise size.most_elements");
    return expected;
}

}  // namespace dotsift
