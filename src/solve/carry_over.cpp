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

/// For each slot (or node) of `to` the element of `from` that it lies in, and its reference coordinates there.
template <int D>
struct Source {
    std::size_t element = 0;
    Vec<D> xi;
};

template <int D>
std::vector<Source<D>> sources_of(const MeshIn<D>& from, const MeshIn<D>& to, bool slots) {
    const std::size_t count = slots ? to.node_of_slot.size() : to.nodes.size();
    std::vector<std::int64_t> owner(count, -1);  // an element that has it
    for (std::size_t e = 0; e < to.element_count(); ++e)
        for (const auto n : slots ? to.slots_of(e) : to.element(e))
            if (owner[static_cast<std::size_t>(n)] < 0)
                owner[static_cast<std::size_t>(n)] = static_cast<std::int64_t>(e);
    const ElementLocatorIn<D> locator(from);
    std::vector<Source<D>> out(count);
    in_parallel(count, [&](std::size_t k) {
        const auto e = static_cast<std::size_t>(owner[k]);
        const Vec<D>& p = to.nodes[slots ? static_cast<std::size_t>(to.node_of_slot[k]) : k];
        const LocationIn<D> at = locator.nearest(p + (to.centre_of(e) - p) * inward);
        const ElementKind kind = from.kinds[at.element];
        bool converged = false;
        const Vec<D> xi = reference_point<D>(kind, from.positions(at.element), p, converged);
        out[k] = {at.element, converged ? xi : at.xi};
    });
    return out;
}

/// Values of some numbers each.
template <int D, class Value>
std::vector<Value> carry(const MeshIn<D>& from, const std::vector<Value>& values, const MeshIn<D>& to, bool slots,
                         bool bounded) {
    const auto sources = sources_of<D>(from, to, slots);
    std::vector<Value> out(sources.size());
    in_parallel(sources.size(), [&](std::size_t k) {
        const auto [e, xi] = sources[k];
        std::array<double, most_nodes<D>> n{};
        shape_values<D>(from.kinds[e], xi, n);
        const auto list = slots ? from.slots_of(e) : from.element(e);
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
    for (const auto& v : carry<D>(from, wrapped(values), to, true, rule == CarryRule::bounded)) out.push_back(v[0]);
    if (rule == CarryRule::conservative) keep_integrals<D>(from, values, to, out);
    return out;
}

}  // namespace

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

std::vector<Vec2> carry_slots(const Mesh& from, const std::vector<Vec2>& values, const Mesh& to) {
    return carry<2>(from, values, to, true, false);
}
std::vector<Stress> carry_slots(const Mesh& from, const std::vector<Stress>& values, const Mesh& to) {
    return carry<2>(from, values, to, true, false);
}

std::vector<Vec2> carry_nodes(const Mesh& from, const std::vector<Vec2>& values, const Mesh& to) {
    return carry<2>(from, values, to, false, false);
}
std::vector<Vec3> carry_nodes(const SolidMesh& from, const std::vector<Vec3>& values, const SolidMesh& to) {
    return carry<3>(from, values, to, false, false);
}

}  // namespace dotsift
