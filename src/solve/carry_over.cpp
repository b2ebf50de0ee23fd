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
struct Source {
    std::size_t element = 0;
    Vec2 xi;
};

std::vector<Source> sources_of(const Mesh& from, const Mesh& to, bool slots) {
    const std::size_t count = slots ? to.node_of_slot.size() : to.nodes.size();
    std::vector<std::int64_t> owner(count, -1);  // an element that has it
    for (std::size_t e = 0; e < to.element_count(); ++e)
        for (const auto n : slots ? to.slots_of(e) : to.element(e))
            if (owner[static_cast<std::size_t>(n)] < 0)
                owner[static_cast<std::size_t>(n)] = static_cast<std::int64_t>(e);
    const ElementLocator locator(from);
    std::vector<Source> out(count);
    in_parallel(count, [&](std::size_t k) {
        const auto e = static_cast<std::size_t>(owner[k]);
        const Vec2& p = to.nodes[slots ? static_cast<std::size_t>(to.node_of_slot[k]) : k];
        const Location at = locator.nearest(p + (to.centre_of(e) - p) * inward);
        const ElementKind kind = from.kinds[at.element];
        bool converged = false;
        const Vec2 xi = reference_point(kind, from.positions(at.element), p, converged);
        out[k] = {at.element, converged ? xi : at.xi};
    });
    return out;
}

/// Values of `components` numbers each.
template <std::size_t N>
std::vector<std::array<double, N>> carry(const Mesh& from, const std::vector<std::array<double, N>>& values,
                                         const Mesh& to, bool slots, bool bounded) {
    const auto sources = sources_of(from, to, slots);
    std::vector<std::array<double, N>> out(sources.size());
    in_parallel(sources.size(), [&](std::size_t k) {
        const auto [e, xi] = sources[k];
        std::array<double, most_element_nodes> n{};
        shape_values(from.kinds[e], xi, n);
        const auto list = slots ? from.slots_of(e) : from.element(e);
        for (std::size_t c = 0; c < N; ++c) {
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

std::vector<double> areas_by_region(const Mesh& mesh) {
    return integrals_by_region(mesh, std::vector<double>(mesh.node_of_slot.size(), 1.0));
}

/// Shifts each region's values so that its integral is the wanted one. Meshes of curved parts differ in area: what has
/// to stay is then the mean.
void keep_integrals(const Mesh& from, const std::vector<double>& values, const Mesh& to, std::vector<double>& carried) {
    const auto wanted = integrals_by_region(from, values), areas_from = areas_by_region(from);
    const auto have = integrals_by_region(to, carried), areas_to = areas_by_region(to);
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

}  // namespace

std::vector<double> integrals_by_region(const Mesh& mesh, const std::vector<double>& slots) {
    std::vector<double> sum(mesh.region_names.size(), 0.0);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        const auto list = mesh.slots_of(e);
        for (const auto& q : tabulated(mesh.kinds[e], quadrature(mesh.kinds[e], 4))) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q);
            double value = 0;
            for (std::size_t i = 0; i < list.size(); ++i) value += p.n[i] * slots[static_cast<std::size_t>(list[i])];
            sum[static_cast<std::size_t>(mesh.region[e])] += q.weight * p.jacobian * value;
        }
    }
    return sum;
}

std::vector<double> carry_slots(const Mesh& from, const std::vector<double>& values, const Mesh& to, CarryRule rule) {
    std::vector<double> out;
    out.reserve(to.node_of_slot.size());
    for (const auto& v : carry(from, wrapped(values), to, true, rule == CarryRule::bounded)) out.push_back(v[0]);
    if (rule == CarryRule::conservative) keep_integrals(from, values, to, out);
    return out;
}

namespace {

std::vector<Vec2> carry_pairs(const Mesh& from, const std::vector<Vec2>& values, const Mesh& to, bool slots) {
    std::vector<std::array<double, 2>> pairs;
    pairs.reserve(values.size());
    for (const Vec2& v : values) pairs.push_back({v[0], v[1]});
    const auto carried = carry(from, pairs, to, slots, false);
    std::vector<Vec2> out;
    out.reserve(carried.size());
    for (const auto& v : carried) out.push_back({{v[0], v[1]}});
    return out;
}

}  // namespace

std::vector<Vec2> carry_slots(const Mesh& from, const std::vector<Vec2>& values, const Mesh& to) {
    return carry_pairs(from, values, to, true);
}

std::vector<std::array<double, 4>> carry_slots(const Mesh& from, const std::vector<std::array<double, 4>>& values,
                                               const Mesh& to) {
    return carry(from, values, to, true, false);
}

std::vector<Vec2> carry_nodes(const Mesh& from, const std::vector<Vec2>& values, const Mesh& to) {
    return carry_pairs(from, values, to, false);
}

}  // namespace dotsift
