#include "solve/case_groups.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"

namespace dotsift {

namespace {

// Successive temperatures that differ by less than this share of their range solve the equation whose conductivity they
// make: what is left is rounding beside the solver's own.
constexpr double settled_share = 1e-12;
constexpr int most_iterations = 100;

}  // namespace

std::vector<std::vector<CaseSpec>> case_groups(const Study& study) {
    const auto cases = study.cases_to_solve();
    if (!study.stiffness_changes() && !study.conductivity_changes()) return {cases};
    std::vector<std::vector<CaseSpec>> out;
    out.reserve(cases.size());
    for (const auto& c : cases) out.push_back({c});
    return out;
}

std::vector<double> settled_temperature(std::size_t slots, double reference, const std::vector<double>& start,
                                        const std::function<std::vector<double>(const std::vector<double>&)>& solved) {
    std::vector<double> temperature(slots, reference);
    if (start.size() == slots) temperature = start;
    for (int k = 0; k < most_iterations; ++k) {
        auto next = solved(temperature);
        const auto [low, high] = std::minmax_element(next.begin(), next.end());
        const double range = std::max(*high - *low, std::max(std::fabs(*high), std::fabs(*low)));
        double change = 0;
        for (std::size_t s = 0; s < slots; ++s) change = std::max(change, std::fabs(next[s] - temperature[s]));
        temperature = std::move(next);
        if (change <= settled_share * range) return temperature;
    }
    throw SolveError(fmt::format("the temperature has not settled after {} rounds: the conductivity changes too "
                                 "steeply with it",
                                 most_iterations),
                     {}, "give a smoother conductivity over the temperature, or look whether its table fits the loads");
}

}  // namespace dotsift
