#include "recovery/indicators.hpp"

#include <algorithm>
#include <cmath>
#include <span>

#include "solve/acting_loads.hpp"
#include "solve/side_geometry.hpp"

namespace dotsift {

namespace {

constexpr double inner_share = 1 / 24.0;
constexpr double outer_share = 4 / 24.0;  // a jump half as large as the one to a mirror image

struct SideOf {
    std::size_t element;
    int side;
};

/// Each pair of elements that share a side, in the order of the first one's elements and sides.
template <class Act>
void each_pair(const Mesh& mesh, Act act) {
    const auto of = [](const ElementSide& s) { return SideOf{static_cast<std::size_t>(s.element), s.side}; };
    for (std::size_t k = 0; k < mesh.sides.count(); ++k)
        if (const auto& [first, second] = mesh.sides.beside(k); second) act(of(first), of(second));
}

/// The point at the share t of a side, with its outward normal times the length element.
struct OnSide {
    ElementPoint point;
    Vec2 normal;
};
OnSide on_side(const Mesh& mesh, const SideOf& at, double t) {
    const ElementKind kind = mesh.kinds[at.element];
    const auto p = mesh.positions(at.element);
    const auto& local = side_nodes(kind, at.side);
    const Vec2 &a = p[local[0]], &b = p[local[1]];
    Vec2 along = b - a;
    if (local.size() > 2) {
        const Vec2& m = p[local[2]];
        along = a * (4 * t - 3) + b * (4 * t - 1) + m * (4 - 8 * t);
    }
    return {evaluate(kind, p, reference_on_side(kind, at.side, t)), -turned_left(along)};
}

/// What the residuals of the displacement are made from.
struct OfStress {
    using Value = Tensor4;
    const Mesh& mesh;
    const Laws& laws;
    const Solution& solution;

    [[nodiscard]] Value value(std::size_t e, const ElementPoint& p) const {
        return stress_at(mesh, laws, solution, e, p);
    }
    [[nodiscard]] Vec2 traction(const Value& s, const Vec2& n) const {
        return {{s[0] * n[0] + s[2] * n[1], s[2] * n[0] + s[1] * n[1]}};
    }
    /// What is missing to balance: the divergence and the load.
    [[nodiscard]] Vec2 residual(std::size_t e, std::span<const Value> at_nodes, const ElementPoint& p,
                                const Value& here, const LoadDensity::Density& load) const {
        Vec2 r = load.force;
        for (std::size_t i = 0; i < at_nodes.size(); ++i) r += traction(at_nodes[i], p.dn[i]);
        if (laws.flat(mesh.region[e])) return r;
        r += traction(here, laws.depth_slope(mesh.region[e], p.position, mesh.size_of(e)));
        if (laws.axisymmetric()) r[0] -= here[3] / p.position[0];
        return r;
    }
    /// What the outline's known traction differs by.
    [[nodiscard]] Vec2 gap(const SideLoad& load, std::size_t k, std::size_t e, const ElementPoint& p) const {
        const Vec2 missing = load.traction[k] - traction(value(e, p), load.points[k].normal);
        Vec2 known{};
        for (const Vec2& d : load.known[k]) known += d * dot(missing, d);
        return known;
    }
    [[nodiscard]] double energy(std::size_t e, const ElementPoint& p, const Value& s) const {
        return laws.of(mesh.region[e]).elastic.energy_norm2(s) / stiffness_at(mesh, solution, e, p);
    }
    [[nodiscard]] double modulus(std::int32_t region) const { return 1 / laws.of(region).elastic.compliance[0][0]; }
};

/// The same of the potential; the flux's normal component stands in x.
struct OfFlux {
    using Value = Vec2;
    const Mesh& mesh;
    const Laws& laws;
    const Solution& solution;

    [[nodiscard]] Value value(std::size_t e, const ElementPoint& p) const {
        return flux_at(mesh, laws, solution, e, p);
    }
    [[nodiscard]] Vec2 traction(const Value& q, const Vec2& n) const { return {{dot(q, n), 0}}; }
    [[nodiscard]] Vec2 residual(std::size_t e, std::span<const Value> at_nodes, const ElementPoint& p,
                                const Value& here, const LoadDensity::Density& load) const {
        Vec2 r{{-load.flow, 0}};
        for (std::size_t i = 0; i < at_nodes.size(); ++i) r += traction(at_nodes[i], p.dn[i]);
        if (!laws.flat(mesh.region[e]))
            r += traction(here, laws.depth_slope(mesh.region[e], p.position, mesh.size_of(e)));
        return r;
    }
    [[nodiscard]] Vec2 gap(const SideLoad& load, std::size_t k, std::size_t e, const ElementPoint& p) const {
        if (!load.flux_known) return {};
        double potential = 0;
        const auto slots = mesh.slots_of(e);
        for (std::size_t i = 0; i < slots.size(); ++i)
            potential += p.n[i] * solution.potential[static_cast<std::size_t>(slots[i])];
        return {{load.flux[k] - load.transfer[k] * potential + dot(value(e, p), load.points[k].normal), 0}};
    }
    [[nodiscard]] double energy(std::size_t e, const ElementPoint& p, const Value& q) const {
        return laws.of(mesh.region[e]).conduction.energy_norm2(q) / conductivity_at(mesh, solution, e, p);
    }
    [[nodiscard]] double modulus(std::int32_t region) const { return laws.of(region).conduction.conductivity[0][0]; }
};

template <class Parts>
ErrorMap residual_error(const Parts& parts, const ActingLoads& acting) {
    const Mesh& mesh = parts.mesh;
    const Laws& laws = parts.laws;
    ErrorMap map;
    map.element_error2.assign(mesh.element_count(), 0.0);
    const auto of_sides = [&](std::size_t e, double share) {
        return share * mesh.size_of(e) / (parts.modulus(mesh.region[e]) * polynomial_degree(mesh.kinds[e]));
    };
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        const ElementKind kind = mesh.kinds[e];
        const double p = polynomial_degree(kind), h = mesh.size_of(e);
        // The element's own values at its nodes, whose shape functions give their derivatives.
        std::array<typename Parts::Value, most_element_nodes> at_nodes{};
        const auto count = static_cast<std::size_t>(node_count(kind));
        for (std::size_t i = 0; i < count; ++i)
            at_nodes[i] = parts.value(e, evaluate(kind, positions, reference_node(kind, i)));
        for (const auto& q : tabulated(kind, quadrature(kind, 4))) {
            const ElementPoint at = evaluate(kind, positions, q);
            const double w = q.weight * at.jacobian * laws.depth(mesh.region[e], at.position);
            const auto here = parts.value(e, at);
            const Vec2 r = parts.residual(e, {at_nodes.data(), count}, at, here, acting.inside(e, at));
            map.element_error2[e] += inner_share * h * h / (parts.modulus(mesh.region[e]) * p * p) * w * dot(r, r);
            map.energy2 += w * parts.energy(e, at, here);
        }
    }
    each_pair(mesh, [&](const SideOf& a, const SideOf& b) {
        double jump2 = 0;
        for (const auto& q : line_rule()) {
            const OnSide here = on_side(mesh, a, q.t), there = on_side(mesh, b, 1 - q.t);
            const double length = norm(here.normal);
            const Vec2 n = here.normal / length;
            // Regions may have different thickness: what passes from one to the other is the traction times it.
            const double depth = laws.depth(mesh.region[a.element], here.point.position),
                         other = laws.depth(mesh.region[b.element], here.point.position);
            const Vec2 jump = parts.traction(parts.value(a.element, here.point), n) * depth -
                              parts.traction(parts.value(b.element, there.point), n) * other;
            if (depth + other > 0) jump2 += q.weight * length * dot(jump, jump) * 2 / (depth + other);
        }
        map.element_error2[a.element] += of_sides(a.element, inner_share) * jump2;
        map.element_error2[b.element] += of_sides(b.element, inner_share) * jump2;
    });
    for (const auto& load : acting.sides()) {
        const auto e = static_cast<std::size_t>(load.element);
        const auto rule = line_rule();
        for (std::size_t k = 0; k < rule.size(); ++k) {
            const OnSide here = on_side(mesh, {e, load.side}, rule[k].t);
            const Vec2 gap = parts.gap(load, k, e, here.point);
            const double w = load.points[k].length * laws.depth(mesh.region[e], here.point.position);
            map.element_error2[e] += of_sides(e, outer_share) * w * dot(gap, gap);
        }
    }
    for (const double v : map.element_error2) map.error2 += v;
    return map;
}

}  // namespace

ErrorMap residual_stress_error(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution) {
    return residual_error(OfStress{mesh, laws, solution}, ActingLoads(mesh, study, laws, solution.load_case));
}

ErrorMap residual_flux_error(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution) {
    return residual_error(OfFlux{mesh, laws, solution}, ActingLoads(mesh, study, laws, solution.load_case));
}

std::vector<double> energy_densities(const Mesh& mesh, const Laws& laws, const Solution& solution, bool of_potential) {
    std::vector<double> out(mesh.element_count(), 0.0);
    for (std::size_t e = 0; e < out.size(); ++e) {
        const auto positions = mesh.positions(e);
        const RegionLaw& law = laws.of(mesh.region[e]);
        double volume = 0;
        for (const auto& q : tabulated(mesh.kinds[e], quadrature(mesh.kinds[e], 4))) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q);
            const double density = of_potential ? law.conduction.energy_norm2(flux_at(mesh, laws, solution, e, p)) /
                                                      conductivity_at(mesh, solution, e, p)
                                                : law.elastic.energy_norm2(stress_at(mesh, laws, solution, e, p)) /
                                                      stiffness_at(mesh, solution, e, p) / 2;
            const double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
            out[e] += w * density;
            volume += w;
        }
        if (volume > 0) out[e] /= volume;
    }
    return out;
}

std::vector<double> jumps_of_slots(const Mesh& mesh, const std::vector<double>& values) {
    std::vector<double> out(mesh.element_count(), 0.0);
    const auto slope = [&](const SideOf& at, const ElementPoint& p, const Vec2& n) {
        double sum = 0;
        const auto slots = mesh.slots_of(at.element);
        for (std::size_t i = 0; i < slots.size(); ++i)
            sum += values[static_cast<std::size_t>(slots[i])] * dot(p.dn[i], n);
        return sum;
    };
    each_pair(mesh, [&](const SideOf& a, const SideOf& b) {
        if (mesh.region[a.element] != mesh.region[b.element]) return;
        double jump2 = 0;
        for (const auto& q : line_rule()) {
            const OnSide here = on_side(mesh, a, q.t), there = on_side(mesh, b, 1 - q.t);
            const double length = norm(here.normal);
            const Vec2 n = here.normal / length;
            const double jump = slope(a, here.point, n) - slope(b, there.point, n);
            jump2 += q.weight * length * jump * jump;
        }
        out[a.element] += mesh.size_of(a.element) * jump2;
        out[b.element] += mesh.size_of(b.element) * jump2;
    });
    return out;
}

std::vector<double> jumps_of_elements(const Mesh& mesh, const std::vector<double>& values) {
    std::vector<double> out(mesh.element_count(), 0.0);
    each_pair(mesh, [&](const SideOf& a, const SideOf& b) {
        if (mesh.region[a.element] != mesh.region[b.element]) return;
        const double jump = values[a.element] - values[b.element];
        out[a.element] += jump * jump;
        out[b.element] += jump * jump;
    });
    return out;
}

std::vector<double> changes_of_slots(const Mesh& mesh, const std::vector<double>& values) {
    std::vector<double> out(mesh.element_count(), 0.0);
    for (std::size_t e = 0; e < out.size(); ++e) {
        double low = INFINITY, high = -INFINITY;
        for (const auto n : mesh.slots_of(e)) {
            low = std::min(low, values[static_cast<std::size_t>(n)]);
            high = std::max(high, values[static_cast<std::size_t>(n)]);
        }
        out[e] = (high - low) * (high - low);
    }
    return out;
}

}  // namespace dotsift
