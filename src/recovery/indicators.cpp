#include "recovery/indicators.hpp"

#include <algorithm>
#include <cmath>
#include <mutex>
#include <span>

#include "base/parallel.hpp"
#include "mesh/side_meeting.hpp"
#include "solve/acting/acting_loads.hpp"
#include "solve/acting/side_geometry.hpp"
#include "solve/acting/solid_sides.hpp"

namespace dotsift {

namespace {

constexpr double inner_share = 1 / 24.0;
constexpr double outer_share = 4 / 24.0;  // a jump half as large as the one to a mirror image

// Elements, or sides, that are worth a thread's while, and pieces between two sums.
constexpr std::size_t elements_a_piece = 1024, pieces_a_round = 64;

double squared(double v) {
    return v * v;
}
template <int D>
double squared(const Vec<D>& v) {
    return dot(v, v);
}

/// What the residuals of the displacement are made from. `Through` is what passes through a side.
template <int D>
struct OfStress {
    using Value = StressIn<D>;
    using Through = Vec<D>;
    const MeshIn<D>& mesh;
    const LawsIn<D>& laws;
    const SolutionIn<D>& solution;

    [[nodiscard]] Value value(std::size_t e, const ElementPointIn<D>& p) const {
        return stress_at(mesh, laws, solution, e, p);
    }
    [[nodiscard]] static Through through(const Value& s, const Vec<D>& n) { return traction(s, n); }
    /// What is missing to balance: the divergence and the load.
    [[nodiscard]] Through residual(std::size_t e, std::span<const Value> at_nodes, const ElementPointIn<D>& p,
                                   const Value& here, const Through& load) const {
        Through r = load;
        for (std::size_t i = 0; i < at_nodes.size(); ++i) r += through(at_nodes[i], p.dn[i]);
        if constexpr (D == 2) {
            if (laws.flat(mesh.region[e])) return r;
            r += through(here, laws.depth_slope(mesh.region[e], p.position, mesh.size_of(e)));
            if (laws.axisymmetric()) r[0] -= here[3] / p.position[0];
        }
        return r;
    }
    [[nodiscard]] double energy(std::size_t e, const ElementPointIn<D>& p, const Value& s) const {
        return laws.of(mesh.region[e]).elastic.energy_norm2(s) / stiffness_at(mesh, solution, e, p);
    }
    [[nodiscard]] double modulus(std::int32_t region) const { return 1 / laws.of(region).elastic.compliance[0][0]; }
    /// What the outline's known traction differs by.
    [[nodiscard]] Through gap(const SideLoad& load, std::size_t k, std::size_t e, const ElementPoint& p) const {
        const Vec2 missing = load.traction[k] - through(value(e, p), load.points[k].normal);
        Vec2 known{};
        for (const Vec2& d : load.known[k]) known += d * dot(missing, d);
        return known;
    }
    [[nodiscard]] static Through of_density(const LoadDensity::Density& load) { return load.force; }
    /// Less what the density brings from outside.
    [[nodiscard]] Through missing(const Value& s, const Vec<D>& n, const Through& density) const {
        return density - through(s, n);
    }
};

/// The same of the potential.
template <int D>
struct OfFlux {
    using Value = Vec<D>;
    using Through = double;
    const MeshIn<D>& mesh;
    const LawsIn<D>& laws;
    const SolutionIn<D>& solution;

    [[nodiscard]] Value value(std::size_t e, const ElementPointIn<D>& p) const {
        return flux_at(mesh, laws, solution, e, p);
    }
    [[nodiscard]] static Through through(const Value& q, const Vec<D>& n) { return dot(q, n); }
    [[nodiscard]] Through residual(std::size_t e, std::span<const Value> at_nodes, const ElementPointIn<D>& p,
                                   const Value& here, const Through& load) const {
        Through r = -load;
        for (std::size_t i = 0; i < at_nodes.size(); ++i) r += through(at_nodes[i], p.dn[i]);
        if constexpr (D == 2)
            if (!laws.flat(mesh.region[e]))
                r += through(here, laws.depth_slope(mesh.region[e], p.position, mesh.size_of(e)));
        return r;
    }
    [[nodiscard]] double energy(std::size_t e, const ElementPointIn<D>& p, const Value& q) const {
        return laws.of(mesh.region[e]).conduction.energy_norm2(q) / conductivity_at(mesh, solution, e, p);
    }
    [[nodiscard]] double modulus(std::int32_t region) const { return laws.of(region).conduction.conductivity[0][0]; }
    [[nodiscard]] Through gap(const SideLoad& load, std::size_t k, std::size_t e, const ElementPoint& p) const {
        if (!load.flux_known) return 0;
        return load.flux[k] - load.transfer[k] * slot_value(mesh, solution.potential, e, p) +
               dot(value(e, p), load.points[k].normal);
    }
    [[nodiscard]] static Through of_density(const LoadDensity::Density& load) { return load.flow; }
    [[nodiscard]] Through missing(const Value& q, const Vec<D>& n, const Through& density) const {
        return density + through(q, n);
    }
};

/// between(a, b) of each pair of elements that share a side, found on all cores, then add(a, b, value) one by one.
template <class Between, class Add>
void over_pairs(const Topology& mesh, Between between, Add add) {
    std::vector<double> values(mesh.sides.count());
    in_parallel_pieces(values.size(), elements_a_piece, [&](std::size_t begin, std::size_t end) {
        for (std::size_t k = begin; k < end; ++k)
            if (const auto& [first, second] = mesh.sides.beside(k); second) values[k] = between(first, second);
    });
    for (std::size_t k = 0; k < values.size(); ++k)
        if (const auto& [first, second] = mesh.sides.beside(k); second) add(first, second, values[k]);
}

/// of_element(e, add) calls add(term) for each term of a sum; the terms are found on all cores, and added in order.
template <class OfElement>
double sum_over_elements(std::size_t count, OfElement of_element) {
    double sum = 0;
    for (std::size_t begin = 0; begin < count; begin += elements_a_piece * pieces_a_round) {
        const std::size_t length = std::min(count - begin, elements_a_piece * pieces_a_round);
        std::vector<std::vector<double>> terms((length + elements_a_piece - 1) / elements_a_piece);
        in_parallel_pieces(length, elements_a_piece, [&](std::size_t from, std::size_t to) {
            auto& own = terms[from / elements_a_piece];
            for (std::size_t e = begin + from; e < begin + to; ++e)
                of_element(e, [&](double term) { own.push_back(term); });
        });
        for (const auto& own : terms)
            for (const double term : own) sum += term;
    }
    return sum;
}

/// load(e, point) acts inside; each_gap(act) calls act(e, squared gap, weight) for what the outline's sides lack.
template <int D, class Parts, class Load, class EachGap>
ErrorMap residual_error(const Parts& parts, Load load, EachGap each_gap) {
    const MeshIn<D>& mesh = parts.mesh;
    const LawsIn<D>& laws = parts.laws;
    ErrorMap map;
    map.element_error2.assign(mesh.element_count(), 0.0);
    const auto of_sides = [&](std::size_t e, double share) {
        return share * mesh.size_of(e) / (parts.modulus(mesh.region[e]) * polynomial_degree(mesh.kinds[e]));
    };
    std::mutex one_formula;  // may be asked by one thread at a time
    map.energy2 = sum_over_elements(mesh.element_count(), [&](std::size_t e, auto add) {
        const auto positions = mesh.positions(e);
        const ElementKind kind = mesh.kinds[e];
        const double p = polynomial_degree(kind), h = mesh.size_of(e);
        // The element's own values at its nodes, whose shape functions give their derivatives.
        std::array<typename Parts::Value, most_nodes<D>> at_nodes{};
        const auto count = static_cast<std::size_t>(node_count(kind));
        for (std::size_t i = 0; i < count; ++i)
            at_nodes[i] = parts.value(e, evaluate<D>(kind, positions, reference_node<D>(kind, i)));
        for (const auto& q : tabulated<D>(kind, quadrature<D>(kind, 4))) {
            const auto at = evaluate<D>(kind, positions, q);
            const double w = q.weight * at.jacobian * laws.depth(mesh.region[e], at.position);
            const auto here = parts.value(e, at);
            typename Parts::Through inside;
            {
                const std::lock_guard lock(one_formula);
                inside = load(e, at);
            }
            const auto r = parts.residual(e, {at_nodes.data(), count}, at, here, inside);
            map.element_error2[e] += inner_share * h * h / (parts.modulus(mesh.region[e]) * p * p) * w * squared(r);
            add(w * parts.energy(e, at, here));
        }
    });
    over_pairs(
        mesh,
        [&](const ElementSide& a, const ElementSide& b) {
            const auto first = static_cast<std::size_t>(a.element), second = static_cast<std::size_t>(b.element);
            const auto on_first = points_on_side(mesh, a), on_second = points_on_side(mesh, a, b);
            double jump2 = 0;
            for (std::size_t k = 0; k < on_first.size(); ++k) {
                const auto &here = on_first[k], &there = on_second[k];
                // Regions may have different thickness: what passes from one to the other is the traction times it.
                const double depth = laws.depth(mesh.region[first], here.point.position),
                             other = laws.depth(mesh.region[second], here.point.position);
                const auto jump = Parts::through(parts.value(first, here.point), here.normal) * depth -
                                  Parts::through(parts.value(second, there.point), here.normal) * other;
                if (depth + other > 0) jump2 += here.weight * squared(jump) * 2 / (depth + other);
            }
            return jump2;
        },
        [&](const ElementSide& a, const ElementSide& b, double jump2) {
            const auto first = static_cast<std::size_t>(a.element), second = static_cast<std::size_t>(b.element);
            map.element_error2[first] += of_sides(first, inner_share) * jump2;
            map.element_error2[second] += of_sides(second, inner_share) * jump2;
        });
    each_gap([&](std::size_t e, double gap2, double weight) {
        map.element_error2[e] += of_sides(e, outer_share) * weight * gap2;
    });
    for (const double v : map.element_error2) map.error2 += v;
    return map;
}

template <class Parts>
ErrorMap plane_residual(const Parts& parts, const ActingLoads& acting) {
    const Mesh& mesh = parts.mesh;
    return residual_error<2>(
        parts, [&](std::size_t e, const ElementPoint& p) { return Parts::of_density(acting.inside(e, p)); },
        [&](auto act) {
            for (const auto& load : acting.sides()) {
                const auto e = static_cast<std::size_t>(load.element);
                const auto points = points_on_side(mesh, {load.element, load.side});
                for (std::size_t k = 0; k < points.size(); ++k) {
                    const ElementPoint& here = points[k].point;
                    act(e, squared(parts.gap(load, k, e, here)),
                        load.points[k].length * parts.laws.depth(mesh.region[e], here.position));
                }
            }
        });
}

template <class Parts>
ErrorMap solid_residual(const Parts& parts, const ActingOnSolid<typename Parts::Through>& acting) {
    const SolidMesh& mesh = parts.mesh;
    return residual_error<3>(
        parts, [&](std::size_t, const ElementPointIn<3>& p) { return acting.inside(p.position); },
        [&](auto act) {
            for (const auto& side : mesh.boundary) {
                const auto e = static_cast<std::size_t>(side.element);
                for (const auto& p : points_on_side(mesh, {side.element, side.side}))
                    if (const auto density = acting.outline(side, p.point.position, p.normal))
                        act(e, squared(parts.missing(parts.value(e, p.point), p.normal, *density)), p.weight);
            }
        });
}

}  // namespace

ErrorMap residual_stress_error(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution) {
    return plane_residual(OfStress<2>{mesh, laws, solution}, ActingLoads(mesh, study, laws, solution.load_case));
}
ErrorMap residual_flux_error(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution) {
    return plane_residual(OfFlux<2>{mesh, laws, solution}, ActingLoads(mesh, study, laws, solution.load_case));
}
ErrorMap residual_stress_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                               const ActingOnSolid<Vec3>& acting) {
    return solid_residual(OfStress<3>{mesh, laws, solution}, acting);
}
ErrorMap residual_flux_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                             const ActingOnSolid<double>& acting) {
    return solid_residual(OfFlux<3>{mesh, laws, solution}, acting);
}

template <int D>
std::vector<double> energy_densities(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolutionIn<D>& solution,
                                     bool of_potential) {
    std::vector<double> out(mesh.element_count(), 0.0);
    in_parallel_pieces(out.size(), elements_a_piece, [&](std::size_t begin, std::size_t end) {
        for (std::size_t e = begin; e < end; ++e) {
            const auto positions = mesh.positions(e);
            const auto& law = laws.of(mesh.region[e]);
            double volume = 0;
            for (const auto& q : tabulated<D>(mesh.kinds[e], quadrature<D>(mesh.kinds[e], 4))) {
                const auto p = evaluate<D>(mesh.kinds[e], positions, q);
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
    });
    return out;
}
template std::vector<double> energy_densities<2>(const MeshIn<2>&, const LawsIn<2>&, const SolutionIn<2>&, bool);
template std::vector<double> energy_densities<3>(const MeshIn<3>&, const LawsIn<3>&, const SolutionIn<3>&, bool);

template <int D>
std::vector<double> jumps_of_slots(const MeshIn<D>& mesh, const std::vector<double>& values) {
    std::vector<double> out(mesh.element_count(), 0.0);
    const auto slope = [&](std::size_t e, const ElementPointIn<D>& p, const Vec<D>& n) {
        double sum = 0;
        const auto slots = mesh.slots_of(e);
        for (std::size_t i = 0; i < slots.size(); ++i)
            sum += values[static_cast<std::size_t>(slots[i])] * dot(p.dn[i], n);
        return sum;
    };
    over_pairs(
        mesh,
        [&](const ElementSide& a, const ElementSide& b) {
            const auto first = static_cast<std::size_t>(a.element), second = static_cast<std::size_t>(b.element);
            double jump2 = 0;
            if (mesh.region[first] != mesh.region[second]) return jump2;
            const auto on_first = points_on_side(mesh, a), on_second = points_on_side(mesh, a, b);
            for (std::size_t k = 0; k < on_first.size(); ++k) {
                const auto& here = on_first[k];
                const double jump =
                    slope(first, here.point, here.normal) - slope(second, on_second[k].point, here.normal);
                jump2 += here.weight * jump * jump;
            }
            return jump2;
        },
        [&](const ElementSide& a, const ElementSide& b, double jump2) {
            const auto first = static_cast<std::size_t>(a.element), second = static_cast<std::size_t>(b.element);
            out[first] += mesh.size_of(first) * jump2;
            out[second] += mesh.size_of(second) * jump2;
        });
    return out;
}
template std::vector<double> jumps_of_slots<2>(const MeshIn<2>&, const std::vector<double>&);
template std::vector<double> jumps_of_slots<3>(const MeshIn<3>&, const std::vector<double>&);

std::vector<double> jumps_of_elements(const Topology& mesh, const std::vector<double>& values) {
    std::vector<double> out(mesh.element_count(), 0.0);
    each_pair(mesh, [&](const ElementSide& a, const ElementSide& b) {
        const auto first = static_cast<std::size_t>(a.element), second = static_cast<std::size_t>(b.element);
        if (mesh.region[first] != mesh.region[second]) return;
        const double jump = values[first] - values[second];
        out[first] += jump * jump;
        out[second] += jump * jump;
    });
    return out;
}

std::vector<double> changes_of_slots(const Topology& mesh, const std::vector<double>& values) {
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
