#include "solve/carry_over.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "base/parallel.hpp"
#include "mesh/locate.hpp"

namespace dotsift {

namespace {

// A node is looked for this share of the way towards the middle of its element, so that one between two regions is
// found in the right one.
constexpr double inward = 1e-3;

std::vector<std::array<double, 1>> wrapped(const std::vector<double>& values) {
    std::vector<std::array<double, 1>> out;
    out.reserve(values.size());
    for (const double v : values) out.push_back({v});
    return out;
}

template <int D>
std::vector<double> integrals_over(const MeshIn<D>& mesh, const std::vector<double>& slots) {
    std::vector<double> sum(mesh.region_names.size(), 0.0);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        const auto list = mesh.slots_of(e);
        for (const auto& q : tabulated<D>(mesh.kinds[e], quadrature<D>(mesh.kinds[e], 4))) {
            const auto p = evaluate<D>(mesh.kinds[e], positions, q);
            double value = 0;
            for (std::size_t i = 0; i < list.size(); ++i) value += p.n[i] * slots[static_cast<std::size_t>(list[i])];
            sum[static_cast<std::size_t>(mesh.region[e])] += q.weight * p.jacobian * value;
        }
    }
    return sum;
}

template <int D>
std::vector<double> measures_of_regions(const MeshIn<D>& mesh) {
    return integrals_over(mesh, std::vector<double>(mesh.node_of_slot.size(), 1.0));
}

/// Shifts each region's values so that its integral is the wanted one. Meshes of curved parts differ in size: what has
/// to stay is then the mean.
template <int D>
void keep_integrals(const MeshIn<D>& from, const std::vector<double>& values, const MeshIn<D>& to,
                    std::vector<double>& carried) {
    const auto wanted = integrals_over(from, values), areas_from = measures_of_regions(from);
    const auto have = integrals_over(to, carried), areas_to = measures_of_regions(to);
    std::vector<char> done(carried.size(), 0);
    for (std::size_t e = 0; e < to.element_count(); ++e) {
        const auto r = static_cast<std::size_t>(to.region[e]);
        for (const auto n : to.slots_of(e)) {
            const auto k = static_cast<std::size_t>(n);
            if (done[k]) continue;
            done[k] = 1;
            carried[k] += wanted[r] / areas_from[r] - have[r] / areas_to[r];
        }
    }
}

/// Of one number each.
template <int D>
std::vector<double> carry_numbers(const MeshIn<D>& from, const std::vector<double>& values, const MeshIn<D>& to,
                                  CarryRule rule) {
    std::vector<double> out;
    out.reserve(to.node_of_slot.size());
    const Carrier<D> carry(from, to, Carrier<D>::Of::slots);
    for (const auto& v : carry(wrapped(values), rule == CarryRule::bounded)) out.push_back(v[0]);
    if (rule == CarryRule::conservative) keep_integrals<D>(from, values, to, out);
    return out;
}

}  // namespace

template <int D>
Carrier<D>::Carrier(const MeshIn<D>& from, const MeshIn<D>& to, Of of, const std::vector<char>& wanted)
    : from_(from), of_(of) {
    const bool slots = of == Of::slots;
    const std::size_t count = slots ? to.node_of_slot.size() : to.nodes.size();
    std::vector<std::int64_t> owner(count, -1);  // an element that has it
    for (std::size_t e = 0; e < to.element_count(); ++e)
        for (const auto n : slots ? to.slots_of(e) : to.element(e))
            if (owner[static_cast<std::size_t>(n)] < 0)
                owner[static_cast<std::size_t>(n)] = static_cast<std::int64_t>(e);
    const ElementLocatorIn<D> locator(from);
    sources_.resize(count);
    in_parallel(count, [&](std::size_t k) {
        if (!wanted.empty() && !wanted[k]) return;
        const auto e = static_cast<std::size_t>(owner[k]);
        const Vec<D>& p = to.nodes[slots ? static_cast<std::size_t>(to.node_of_slot[k]) : k];
        const LocationIn<D> at = locator.nearest(p + (to.centre_of(e) - p) * inward);
        const ElementKind kind = from.kinds[at.element];
        bool converged = false;
        const Vec<D> xi = reference_point<D>(kind, from.positions(at.element), p, converged);
        sources_[k] = {static_cast<std::int64_t>(at.element), converged ? xi : at.xi};
    });
}

template <int D>
template <class Value>
std::vector<Value> Carrier<D>::operator()(const std::vector<Value>& values, bool bounded) const {
    std::vector<Value> out(sources_.size());
    in_parallel(sources_.size(), [&](std::size_t k) {
        if (sources_[k].element < 0) return;
        const auto e = static_cast<std::size_t>(sources_[k].element);
        std::array<double, most_nodes<D>> n{};
        shape_values<D>(from_.kinds[e], sources_[k].xi, n);
        const auto list = of_ == Of::slots ? from_.slots_of(e) : from_.element(e);
        for (std::size_t c = 0; c < out[k].size(); ++c) {
            double sum = 0, low = INFINITY, high = -INFINITY;
            for (std::size_t i = 0; i < list.size(); ++i) {
                const double v = values[static_cast<std::size_t>(list[i])][c];
                sum += n[i] * v;
                low = std::min(low, v);
                high = std::max(high, v);
            }
            out[k][c] = bounded ? std::clamp(sum, low, high) : sum;
        }
    });
    return out;
}

template class Carrier<2>;
template class Carrier<3>;
template std::vector<std::array<double, 1>> Carrier<2>::operator()(const std::vector<std::array<double, 1>>&,
                                                                   bool) const;
template std::vector<std::array<double, 1>> Carrier<3>::operator()(const std::vector<std::array<double, 1>>&,
                                                                   bool) const;
template std::vector<Vec2> Carrier<2>::operator()(const std::vector<Vec2>&, bool) const;
template std::vector<Vec3> Carrier<3>::operator()(const std::vector<Vec3>&, bool) const;
template std::vector<StressIn<2>> Carrier<2>::operator()(const std::vector<StressIn<2>>&, bool) const;
template std::vector<StressIn<3>> Carrier<3>::operator()(const std::vector<StressIn<3>>&, bool) const;

std::vector<double> integrals_by_region(const Mesh& mesh, const std::vector<double>& slots) {
    return integrals_over<2>(mesh, slots);
}
std::vector<double> integrals_by_region(const SolidMesh& mesh, const std::vector<double>& slots) {
    return integrals_over<3>(mesh, slots);
}

std::vector<double> carry_slots(const Mesh& from, const std::vector<double>& values, const Mesh& to, CarryRule rule) {
    return carry_numbers<2>(from, values, to, rule);
}
std::vector<double> carry_slots(const SolidMesh& from, const std::vector<double>& values, const SolidMesh& to,
                                CarryRule rule) {
    return carry_numbers<3>(from, values, to, rule);
}

}  // namespace dotsift
