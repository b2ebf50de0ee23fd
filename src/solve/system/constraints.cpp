#include "solve/system/constraints.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace dotsift {

namespace {

// A row whose coefficients, of the order of 1, all shrink to less than this says nothing new: sides that differ in
// direction by so little count as parallel.
constexpr double no_coefficient = 1e-6;
// Values that differ by less, relative to the larger one, come from rounding in formulas.
constexpr double same_value = 1e-8;

/// dof = value + sum of terms
struct Expression {
    std::int32_t dof = 0;
    std::size_t row = 0;
    std::vector<std::pair<std::int32_t, double>> terms;
    std::vector<double> value;
};

}  // namespace

std::vector<double> Constraints::expand(std::span<const double> x, std::size_t load_case) const {
    auto all = expand_homogeneous(x);
    for (std::int32_t d = 0; d < dofs; ++d) all[static_cast<std::size_t>(d)] += given(d, load_case);
    return all;
}

std::vector<double> Constraints::expand_homogeneous(std::span<const double> x) const {
    std::vector<double> all(static_cast<std::size_t>(dofs));
    for (std::int32_t d = 0; d < dofs; ++d)
        each_term(d, [&](std::int32_t u, double c) {
            all[static_cast<std::size_t>(d)] += c * x[static_cast<std::size_t>(u)];
        });
    return all;
}

std::vector<double> Constraints::restrict_forces(std::span<const double> force) const {
    std::vector<double> out(static_cast<std::size_t>(unknowns));
    for (std::int32_t d = 0; d < dofs; ++d)
        each_term(d, [&](std::int32_t u, double c) {
            out[static_cast<std::size_t>(u)] += c * force[static_cast<std::size_t>(d)];
        });
    return out;
}

Constraints eliminate(std::int32_t dofs, std::size_t cases, const std::vector<ConstraintRow>& rows,
                      const std::function<void(std::size_t, std::size_t)>& contradiction) {
    std::vector<std::int32_t> expression_of(static_cast<std::size_t>(dofs), -1);
    std::vector<Expression> list;
    std::map<std::int32_t, double> sum;  // ordered, so that results do not depend on anything else
    std::vector<double> value(cases), size(cases);
    for (std::size_t r = 0; r < rows.size(); ++r) {
        const auto& row = rows[r];
        sum.clear();
        value = row.value;
        for (std::size_t c = 0; c < cases; ++c) size[c] = std::fabs(value[c]);
        std::size_t earlier = r;
        auto open = row.terms;  // expressions stand for others, which may be expressions by now
        while (!open.empty()) {
            const auto [d, a] = open.back();
            open.pop_back();
            const auto k = expression_of[static_cast<std::size_t>(d)];
            if (k < 0) {
                sum[d] += a;
                continue;
            }
            const auto& x = list[static_cast<std::size_t>(k)];
            if (earlier == r || rows[earlier].source == row.source) earlier = x.row;
            for (const auto& [t, b] : x.terms) open.emplace_back(t, a * b);
            for (std::size_t c = 0; c < cases; ++c) {
                value[c] -= a * x.value[c];
                size[c] = std::max(size[c], std::fabs(a * x.value[c]));
            }
        }
        std::int32_t pivot = -1;
        double largest = 0;
        for (const auto& [d, a] : sum) {
            if (std::fabs(a) <= largest) continue;
            largest = std::fabs(a);
            pivot = d;
        }
        if (largest <= no_coefficient) {
            for (std::size_t c = 0; c < cases; ++c)
                if (std::fabs(value[c]) > same_value * size[c]) contradiction(r, earlier);
            continue;
        }
        // The first of the row if it is not much smaller: the caller knows which has the sparsest equations.
        const auto first = sum.find(row.terms.front().first);
        if (first != sum.end() && std::fabs(first->second) > 0.1 * largest) pivot = first->first;
        const double p = sum[pivot];
        Expression x;
        x.dof = pivot;
        x.row = r;
        for (const auto& [d, a] : sum)
            if (d != pivot && std::fabs(a) > no_coefficient * 1e-6) x.terms.emplace_back(d, -a / p);
        x.value = value;
        for (auto& v : x.value) v /= p;
        expression_of[static_cast<std::size_t>(pivot)] = static_cast<std::int32_t>(list.size());
        list.push_back(std::move(x));
    }
    // Later expressions stand in earlier ones.
    for (std::size_t k = list.size(); k-- > 0;) {
        auto& x = list[k];
        const bool any = std::any_of(x.terms.begin(), x.terms.end(), [&](const auto& t) {
            return expression_of[static_cast<std::size_t>(t.first)] >= 0;
        });
        if (!any) continue;
        sum.clear();
        for (const auto& [d, a] : x.terms) {
            const auto j = expression_of[static_cast<std::size_t>(d)];
            if (j < 0) {
                sum[d] += a;
                continue;
            }
            const auto& y = list[static_cast<std::size_t>(j)];
            for (const auto& [t, b] : y.terms) sum[t] += a * b;
            for (std::size_t c = 0; c < cases; ++c) x.value[c] += a * y.value[c];
        }
        x.terms.assign(sum.begin(), sum.end());
    }
    Constraints out;
    out.dofs = dofs;
    out.cases = cases;
    out.place_.resize(static_cast<std::size_t>(dofs));
    for (std::size_t d = 0; d < out.place_.size(); ++d)
        out.place_[d] = expression_of[d] < 0 ? out.unknowns++ : ~expression_of[d];
    out.first_.push_back(0);
    for (const auto& x : list) {
        for (const auto& [d, a] : x.terms) out.terms_.emplace_back(out.place_[static_cast<std::size_t>(d)], a);
        out.first_.push_back(static_cast<std::int64_t>(out.terms_.size()));
        out.given_.insert(out.given_.end(), x.value.begin(), x.value.end());
        out.has_given_ = out.has_given_ || std::any_of(x.value.begin(), x.value.end(), [](double v) { return v != 0; });
    }
    return out;
}

}  // namespace dotsift
