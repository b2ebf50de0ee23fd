#include "solve/acting/solid_balance.hpp"

#include <algorithm>
#include <cmath>

#include "base/dense.hpp"
#include "base/parallel.hpp"
#include "solve/acting/balance.hpp"

namespace dotsift {

namespace {

constexpr std::size_t elements_a_round = 1U << 14U;  // whose forces are held at once
constexpr std::size_t elements_a_piece = 128;
// Directions of supports nearer to each other than this count as one, as in the elimination.
constexpr double least_sine = 1e-6;

/// of_element(e, values, energy) makes an element's forces; add(e, values) adds them up, in the order of the elements.
template <class OfElement, class Add>
double over_elements(std::size_t count, std::size_t most, OfElement of_element, Add add) {
    double sum = 0;
    std::vector<double> values(std::min(count, elements_a_round) * most), energy(std::min(count, elements_a_round));
    for (std::size_t begin = 0; begin < count; begin += elements_a_round) {
        const std::size_t length = std::min(elements_a_round, count - begin);
        std::fill(values.begin(), values.end(), 0.0);
        std::fill(energy.begin(), energy.end(), 0.0);
        in_parallel_pieces(length, elements_a_piece, [&](std::size_t from, std::size_t to) {
            for (std::size_t k = from; k < to; ++k)
                of_element(begin + k, std::span(values).subspan(k * most, most), energy[k]);
        });
        for (std::size_t k = 0; k < length; ++k) {
            add(begin + k, std::span<const double>(values).subspan(k * most, most));
            sum += energy[k];
        }
    }
    return sum;
}

struct HeldDirection {
    Vec3 direction;
    int source;
};

/// Parts of a force along directions that need not be at right angles; what is along none of them goes to the first.
void share(const std::vector<HeldDirection>& held, const Vec3& force, const Vec3& at, SolutionIn<3>& out) {
    const auto give = [&](int source, const Vec3& f) {
        auto& r = out.reactions[static_cast<std::size_t>(source)];
        r.force += f;
        r.moment += cross(at, f);
    };
    std::vector<HeldDirection> apart;
    std::vector<Vec3> across;  // the same, each without what the ones before it have
    for (const auto& h : held) {
        Vec3 rest = h.direction;
        for (const Vec3& a : across) rest -= a * dot(rest, a);
        if (norm(rest) < least_sine || apart.size() == 3) continue;
        across.push_back(rest / norm(rest));
        apart.push_back(h);
    }
    if (std::all_of(held.begin(), held.end(), [&](const auto& h) { return h.source == held.front().source; })) {
        give(held.front().source, force);
        return;
    }
    const auto n = static_cast<Eigen::Index>(apart.size());
    Eigen::MatrixXd gram(n, n);
    Eigen::VectorXd right(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        right[i] = dot(apart[static_cast<std::size_t>(i)].direction, force);
        for (Eigen::Index j = 0; j < n; ++j)
            gram(i, j) =
                dot(apart[static_cast<std::size_t>(i)].direction, apart[static_cast<std::size_t>(j)].direction);
    }
    const Eigen::VectorXd parts = OrthogonalFactor(gram).solve(right);
    Vec3 rest = force;
    for (Eigen::Index i = 0; i < n; ++i) {
        const auto& h = apart[static_cast<std::size_t>(i)];
        const Vec3 f = h.direction * parts[i];
        give(h.source, f);
        rest -= f;
    }
    give(held.front().source, rest);
}

}  // namespace

std::vector<double> solid_internal_forces(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& s,
                                          double& energy) {
    std::vector<double> force(3 * mesh.nodes.size(), 0.0);
    energy = over_elements(
        mesh.element_count(), 3 * static_cast<std::size_t>(most_nodes<3>),
        [&](std::size_t e, std::span<double> values, double& own) {
            const ElementKind kind = mesh.kinds[e];
            const auto positions = mesh.positions(e);
            const auto count = static_cast<std::size_t>(node_count(kind));
            for (const auto& q : tabulated<3>(kind, stiffness_rule<3>(kind, is_straight(kind, positions)))) {
                const auto p = evaluate<3>(kind, positions, q);
                const Stress3 t = stress_at(mesh, laws, s, e, p);
                const double w = q.weight * p.jacobian;
                own += 0.5 * w * laws.of(mesh.region[e]).elastic.energy_norm2(t) / stiffness_at(mesh, s, e, p);
                for (std::size_t i = 0; i < count; ++i) {
                    const Vec3 f = traction(t, p.dn[i]) * w;
                    for (std::size_t c = 0; c < 3; ++c) values[3 * i + c] += f[c];
                }
            }
        },
        [&](std::size_t e, std::span<const double> values) {
            const auto nodes = mesh.element(e);
            for (std::size_t i = 0; i < nodes.size(); ++i)
                for (std::size_t c = 0; c < 3; ++c)
                    force[3 * static_cast<std::size_t>(nodes[i]) + c] += values[3 * i + c];
        });
    return force;
}

std::vector<double> solid_internal_flows(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& s,
                                         double& dissipation) {
    std::vector<double> flow(mesh.node_of_slot.size(), 0.0);
    dissipation = over_elements(
        mesh.element_count(), static_cast<std::size_t>(most_nodes<3>),
        [&](std::size_t e, std::span<double> values, double& own) {
            const ElementKind kind = mesh.kinds[e];
            const auto positions = mesh.positions(e);
            const auto count = static_cast<std::size_t>(node_count(kind));
            for (const auto& q : tabulated<3>(kind, stiffness_rule<3>(kind, is_straight(kind, positions)))) {
                const auto p = evaluate<3>(kind, positions, q);
                const Vec3 f = flux_at(mesh, laws, s, e, p);
                const double w = q.weight * p.jacobian;
                own += w * laws.of(mesh.region[e]).conduction.energy_norm2(f) / conductivity_at(mesh, s, e, p);
                for (std::size_t i = 0; i < count; ++i) values[i] -= w * dot(p.dn[i], f);
            }
        },
        [&](std::size_t e, std::span<const double> values) {
            const auto slots = mesh.slots_of(e);
            for (std::size_t i = 0; i < slots.size(); ++i) flow[static_cast<std::size_t>(slots[i])] += values[i];
        });
    return flow;
}

void find_solid_reactions(const FieldProblem& problem, const SolidMesh& mesh, const Study& study,
                          const std::vector<double>& value, const std::vector<double>& internal,
                          const std::vector<double>& applied, double thermal, SolutionIn<3>& out) {
    for (const auto& support : study.supports) out.reactions.push_back({support.name, {}, {}, 0});
    std::vector<std::vector<HeldDirection>> held(mesh.nodes.size());
    for (const auto& r : problem.rows) {
        if (r.source < 0) continue;
        Vec3 d{};
        for (const auto& [dof, a] : r.terms) d[static_cast<std::size_t>(problem.layout.component_of(dof))] = a;
        held[static_cast<std::size_t>(problem.layout.node_of(r.terms.front().first))].push_back({d, r.source});
    }
    // What foundations do to the part.
    std::vector<double> springs(value.size(), 0.0);
    for (const auto& j : problem.sourced) {
        if (j.support < 0) continue;
        auto& r = out.reactions[static_cast<std::size_t>(j.support)];
        each_joint_force(j.joint, value, [&](std::int32_t dof, double force) {
            springs[static_cast<std::size_t>(dof)] += force;
            Vec3 at;
            at[static_cast<std::size_t>(problem.layout.component_of(dof))] = -force;
            r.force += at;
            r.moment += cross(mesh.nodes[static_cast<std::size_t>(problem.layout.node_of(dof))], at);
        });
    }
    auto& b = out.balance;
    Box<3> box;
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
        const Vec3& x = mesh.nodes[n];
        box.add(x);
        const Vec3 f{{applied[3 * n], applied[3 * n + 1], applied[3 * n + 2]}};
        b.applied += f;
        b.applied_moment += cross(x, f);
        b.magnitude += norm(f);
        const Vec3 spring = vector_at<3>(springs, n);
        b.reaction -= spring;
        b.reaction_moment -= cross(x, spring);
        b.magnitude += norm(spring);
        if (held[n].empty()) continue;
        const Vec3 r = vector_at<3>(internal, n) + spring - f;
        share(held[n], r, x, out);
        b.reaction += r;
        b.reaction_moment += cross(x, r);
        b.magnitude += norm(r);
    }
    b.magnitude += thermal;
    const Vec3 sum = b.applied + b.reaction, moment = b.applied_moment + b.reaction_moment;
    const double arm = std::max(box.diagonal(), norm(box.centre()));
    if (!(b.magnitude > rounding_of_forces(out.solver, applied))) return;
    double largest = 0;
    for (std::size_t c = 0; c < 3; ++c) largest = std::max({largest, std::fabs(sum[c]), std::fabs(moment[c]) / arm});
    b.relative_error = largest / b.magnitude;
}

void find_solid_flow_reactions(const FieldProblem& problem, const Study& study, const std::vector<double>& flow,
                               const std::vector<double>& applied, std::vector<LoadTotal>& totals, SolutionIn<3>& out) {
    for (const auto& support : study.supports) out.reactions.push_back({support.name, {}, {}, 0});
    std::vector<int> holder(flow.size(), -1);
    for (const auto& r : problem.rows)
        if (r.source >= 0 && holder[static_cast<std::size_t>(r.terms.front().first)] < 0)
            holder[static_cast<std::size_t>(r.terms.front().first)] = r.source;
    // What passes to the slots of another region of the same node comes back from there.
    std::vector<double> left(flow.size());
    for (std::size_t s = 0; s < flow.size(); ++s) left[s] = flow[s] - applied[s];
    for (const auto& r : problem.rows) {
        if (r.source >= 0 || r.terms.size() != 2) continue;
        const auto from = static_cast<std::size_t>(r.terms[0].first), to = static_cast<std::size_t>(r.terms[1].first);
        left[to] += left[from];
        left[from] = 0;
        if (holder[to] < 0) holder[to] = holder[from];
    }
    auto& b = out.balance;
    for (std::size_t s = 0; s < flow.size(); ++s) {
        b.applied_flow += applied[s];
        b.flow_magnitude += std::fabs(applied[s]);
        if (holder[s] < 0) continue;
        out.reactions[static_cast<std::size_t>(holder[s])].flow += left[s];
        b.reaction_flow += left[s];
        b.flow_magnitude += std::fabs(left[s]);
    }
    take_back(problem, totals, out);
    if (b.flow_magnitude > rounding_of_forces(out.solver, applied))
        b.relative_error = std::fabs(b.applied_flow + b.reaction_flow) / b.flow_magnitude;
}

}  // namespace dotsift
