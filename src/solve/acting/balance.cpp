#include "solve/acting/balance.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "base/parallel.hpp"

namespace dotsift {

namespace {

// A solution that leaves more than this share of the forces unbalanced is none.
constexpr double worst_balance = 1e-8;
// Where no load acts and nothing flows, or nothing is strained, all forces are rounding: this share of what the
// equations' entries make of the solution.
constexpr double rounding_direct = 1e-12, rounding_iterative = 1e-8;
/// For each node or slot the supports and ties that hold it, in their order, without repetitions.
std::vector<std::vector<int>> holders(const std::vector<ConstraintRow>& rows, const FieldLayout& layout) {
    std::vector<std::vector<int>> of(static_cast<std::size_t>(layout.nodes));
    for (const auto& r : rows) {
        if (r.source < 0) continue;
        for (const auto& [d, a] : r.terms) {
            const auto n = static_cast<std::size_t>(layout.node_of(d));
            if (n >= of.size()) continue;
            if (of[n].empty() || of[n].back() != r.source) of[n].push_back(r.source);
        }
    }
    return of;
}

/// Whether a row belongs to a periodic pair.
bool is_periodic(const ConstraintRow& r, const Study& study) {
    const auto first = static_cast<int>(study.supports.size());
    return r.source >= first && r.source < first + static_cast<int>(study.periodic.size());
}

/// Takes out of the forces at all degrees of freedom what the periodic rows carry, and calls act(source, dof, force):
/// a row's force is the one at its first degree of freedom, if no other row has that. So a support that ends on a
/// periodic side does not get what the pair carries there.
template <class Act>
void take_out_periodic(const std::vector<ConstraintRow>& rows, const Study& study, std::vector<double>& rest, Act act) {
    if (study.periodic.empty()) return;
    std::vector<int> uses(rest.size(), 0);
    for (const auto& r : rows)
        for (const auto& [d, a] : r.terms)
            if (static_cast<std::size_t>(d) < uses.size()) ++uses[static_cast<std::size_t>(d)];
    std::vector<std::pair<const ConstraintRow*, double>> carried;
    for (const auto& r : rows)
        if (is_periodic(r, study) && uses[static_cast<std::size_t>(r.terms.front().first)] == 1)
            carried.emplace_back(&r, rest[static_cast<std::size_t>(r.terms.front().first)] / r.terms.front().second);
    for (const auto& [row, force] : carried)
        for (const auto& [d, a] : row->terms) {
            rest[static_cast<std::size_t>(d)] -= a * force;
            act(static_cast<std::size_t>(row->source), static_cast<std::size_t>(d), a * force);
        }
}

/// The directions in which supports hold a node, for sharing its force among them.
struct Held {
    Vec2 direction;
    int source;
};

void share_reaction(const std::vector<Held>& held, const Vec2& force, const Vec2& position, Solution& out) {
    const auto give = [&](int source, const Vec2& f) {
        auto& r = out.reactions[static_cast<std::size_t>(source)];
        r.force += in_space(f);
        r.moment += moment_in_space(cross(position, f));
    };
    const Held& first = held.front();
    for (const auto& second : held) {
        const double det = cross(first.direction, second.direction);
        if (std::fabs(det) < 1e-6) continue;  // as in the elimination, these count as parallel
        give(first.source, first.direction * (cross(force, second.direction) / det));
        give(second.source, second.direction * (cross(first.direction, force) / det));
        return;
    }
    give(first.source, force);
}

}  // namespace

double rounding_of_forces(const SolverReport& r, const std::vector<double>& applied) {
    const bool loaded = std::any_of(applied.begin(), applied.end(), [](double f) { return f != 0; });
    return loaded ? 0 : (r.steps > 0 ? rounding_iterative : rounding_direct) * r.scale;
}

std::vector<double> internal_forces(const PlaneProblem& problem, const Laws& laws, const Solution& s, double& energy) {
    const Mesh& mesh = *problem.mesh;
    const FieldLayout& layout = problem.layout;
    std::vector<double> force(static_cast<std::size_t>(layout.dofs), 0.0);
    const ColouredPieces pieces = coloured_pieces(mesh, mesh.nodes.size());
    std::vector<double> energies(mesh.element_count());
    // Shared degrees of freedom are summed element by element afterwards, in a fixed order.
    std::vector<std::array<double, most_shared_dofs>> shared(layout.shared ? mesh.element_count() : 0);
    const auto element = [&](std::size_t e) {
        const auto nodes = mesh.element(e);
        const auto positions = mesh.positions(e);
        const auto& law = laws.of(mesh.region[e]).elastic;
        for (const auto& q : integration_points(mesh, laws, e, positions)) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q);
            const Stress t = stress_at(mesh, laws, s, e, p);
            const double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
            energies[e] += 0.5 * w * law.energy_norm2(t) / stiffness_at(mesh, s, e, p);
            for (std::size_t i = 0; i < nodes.size(); ++i) {
                const std::size_t n = first_of(static_cast<std::size_t>(nodes[i]));
                double x = p.dn[i][0] * t[0] + p.dn[i][1] * t[2];
                if (laws.axisymmetric()) x += p.n[i] / p.position[0] * t[3];
                force[n] += w * x;
                force[n + 1] += w * (p.dn[i][1] * t[1] + p.dn[i][0] * t[2]);
            }
            if (layout.shared) {
                const Vec2 from = (p.position - problem.centre) / problem.arm;
                shared[e][0] += w * t[3];
                shared[e][1] += w * t[3] * from[0];
                shared[e][2] += w * t[3] * from[1];
            }
        }
    };
    for (const auto& colour : pieces.colours)
        in_parallel(colour.size(), [&](std::size_t k) {
            for (std::size_t e = colour[k].begin; e < colour[k].end; ++e) element(e);
        });
    energy = 0;
    for (const double x : energies) energy += x;
    for (const auto& x : shared)
        for (std::size_t k = 0; k < most_shared_dofs; ++k)
            force[static_cast<std::size_t>(layout.shared_first) + k] += x[k];
    return force;
}

std::vector<double> internal_flows(const Mesh& mesh, const Laws& laws, const Solution& s, double& dissipation) {
    std::vector<double> flow(mesh.node_of_slot.size(), 0.0);
    dissipation = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        const auto slots = mesh.slots_of(e);
        for (const auto& q : integration_points(mesh, laws, e, positions)) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q);
            const Vec2 f = flux_at(mesh, laws, s, e, p);
            const double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
            dissipation += w * laws.of(mesh.region[e]).conduction.energy_norm2(f) / conductivity_at(mesh, s, e, p);
            for (std::size_t i = 0; i < slots.size(); ++i)
                flow[static_cast<std::size_t>(slots[i])] -= w * dot(p.dn[i], f);
        }
    }
    return flow;
}

double add_joints(const std::vector<SourcedJoint>& joints, const std::vector<double>& value,
                  std::vector<double>& force) {
    double energy = 0;
    for (const auto& j : joints)
        each_joint_force(j.joint, value, [&](std::int32_t d, double f) {
            force[static_cast<std::size_t>(d)] += f;
            energy += 0.5 * f * value[static_cast<std::size_t>(d)];
        });
    return energy;
}

void find_reactions(const PlaneProblem& problem, const Study& study, const std::vector<double>& value,
                    const std::vector<double>& internal, const std::vector<double>& applied, double thermal,
                    Solution& out) {
    const Mesh& mesh = *problem.mesh;
    const FieldLayout& layout = problem.layout;
    const int sources = static_cast<int>(study.supports.size() + study.periodic.size() + study.remotes.size());
    for (int s = 0; s < sources; ++s) {
        const std::string name = source_name(study, s);
        out.reactions.push_back({name.substr(name.find('.') + 1), {}, {}, 0});
    }
    auto& b = out.balance;
    std::vector<std::vector<Held>> local(mesh.nodes.size());
    for (const auto& r : problem.rows) {
        const auto n = static_cast<std::size_t>(layout.node_of(r.terms.front().first));
        if (n >= mesh.nodes.size() || static_cast<std::size_t>(r.source) >= study.supports.size()) continue;
        Vec2 d;
        for (const auto& [dof, a] : r.terms) d[static_cast<std::size_t>(layout.component_of(dof))] = a;
        local[n].push_back({d, r.source});
    }
    const auto tied = holders(problem.rows, layout);
    std::vector<double> from_joints(value.size(), 0.0);
    for (const auto& j : problem.sourced) {
        if (j.support < 0) continue;
        auto& r = out.reactions[static_cast<std::size_t>(j.support)];
        each_joint_force(j.joint, value, [&](std::int32_t dof, double sum) {
            from_joints[static_cast<std::size_t>(dof)] += sum;
            Vec2 at;
            at[static_cast<std::size_t>(layout.component_of(dof))] = -sum;
            r.force += in_space(at);
            r.moment += moment_in_space(cross(mesh.nodes[static_cast<std::size_t>(layout.node_of(dof))], at));
        });
    }
    std::vector<double> rest(first_of(mesh.nodes.size()));
    for (std::size_t d = 0; d < rest.size(); ++d) rest[d] = internal[d] + from_joints[d] - applied[d];
    take_out_periodic(problem.rows, study, rest, [&](std::size_t source, std::size_t d, double force) {
        const auto dof = static_cast<std::int32_t>(d);
        Vec2 f;
        f[static_cast<std::size_t>(layout.component_of(dof))] = force;
        out.reactions[source].force += in_space(f);
        out.reactions[source].moment +=
            moment_in_space(cross(mesh.nodes[static_cast<std::size_t>(layout.node_of(dof))], f));
    });
    const Vec2 zero;
    Box2 box;
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
        box.add(mesh.nodes[n]);
        const Vec2 f = vector_at(applied, n);
        const Vec2 springs = vector_at(from_joints, n);
        b.applied += in_space(f);
        b.applied_moment += moment_in_space(cross(mesh.nodes[n], f));
        b.magnitude += norm(f);
        Vec2 r = vector_at(internal, n) + springs - f;
        if (!(springs == zero)) {
            b.reaction -= in_space(springs);
            b.reaction_moment -= moment_in_space(cross(mesh.nodes[n], springs));
            b.magnitude += norm(springs);
        }
        if (tied[n].empty()) continue;
        const Vec2 left = vector_at(rest, n);
        if (!local[n].empty()) {
            share_reaction(local[n], left, mesh.nodes[n], out);
        } else {
            auto& reaction = out.reactions[static_cast<std::size_t>(tied[n].front())];
            reaction.force += in_space(left);
            reaction.moment += moment_in_space(cross(mesh.nodes[n], left));
        }
        b.reaction += in_space(r);
        b.reaction_moment += moment_in_space(cross(mesh.nodes[n], r));
        b.magnitude += norm(r);
    }
    // A force at a remote point comes to the part through the tie; what holds the point is the rest.
    for (std::size_t k = 0; k < study.remotes.size(); ++k) {
        if (!study.remotes[k].rigid) continue;
        const auto d = static_cast<std::size_t>(remote_dof(problem.layout, k));
        const Vec2 f{{applied[d], applied[d + 1]}};
        const double moment = applied[d + 2] * problem.arm + cross(study.remotes[k].at, f);
        b.applied += in_space(f);
        b.applied_moment += moment_in_space(moment);
        b.reaction -= in_space(f);
        b.reaction_moment -= moment_in_space(moment);
        b.magnitude += norm(f);
        auto& r = out.reactions[study.supports.size() + study.periodic.size() + k];
        r.force -= in_space(f);
        r.moment -= moment_in_space(moment);
    }
    b.magnitude += thermal;
    const Vec3 sum = b.applied + b.reaction;
    const double arm = std::max(box.diagonal(), norm(box.centre()));
    if (b.magnitude > rounding_of_forces(out.solver, applied))
        b.relative_error = laws_of(study, mesh.region_names).axisymmetric()
                               ? std::fabs(sum[1]) / b.magnitude
                               : std::max({std::fabs(sum[0]), std::fabs(sum[1]),
                                           std::fabs((b.applied_moment + b.reaction_moment)[2]) / arm}) /
                                     b.magnitude;
}

void check_residual(const Constraints& constraints, const std::vector<double>& internal,
                    const std::vector<double>& applied, double magnitude, const SolverReport& solver) {
    std::vector<double> left(static_cast<std::size_t>(constraints.unknowns), 0.0);
    for (std::int32_t d = 0; d < constraints.dofs; ++d)
        constraints.each_term(d, [&](std::int32_t u, double c) {
            left[static_cast<std::size_t>(u)] +=
                c * (internal[static_cast<std::size_t>(d)] - applied[static_cast<std::size_t>(d)]);
        });
    double worst = 0;
    for (const double r : left) worst = std::max(worst, std::fabs(r));
    if (!(worst <= worst_balance * magnitude) && !(worst <= rounding_of_forces(solver, applied)) && magnitude > 0)
        throw SolveError(fmt::format("loads and reactions do not balance: they leave {:.2g} of the forces at work",
                                     worst / magnitude),
                         {}, "the part is not held, or its constants differ by too many orders of magnitude");
}

void find_flow_reactions(const PlaneProblem& problem, const Study& study, const std::vector<double>& flow,
                         const std::vector<double>& applied, std::vector<LoadTotal>& totals, Solution& out) {
    for (const auto& support : study.supports) out.reactions.push_back({support.name, {}, 0, 0});
    for (const auto& p : study.periodic) out.reactions.push_back({p.name, {}, 0, 0});
    auto& b = out.balance;
    const auto held = holders(problem.rows, problem.layout);
    std::vector<double> rest(held.size());
    for (std::size_t n = 0; n < rest.size(); ++n) rest[n] = flow[n] - applied[n];
    take_out_periodic(problem.rows, study, rest,
                      [&](std::size_t source, std::size_t, double f) { out.reactions[source].flow += f; });
    for (std::size_t n = 0; n < held.size(); ++n) {
        const double r = flow[n] - applied[n];
        b.applied_flow += applied[n];
        b.flow_magnitude += std::fabs(applied[n]);
        if (held[n].empty()) continue;
        out.reactions[static_cast<std::size_t>(held[n].front())].flow += rest[n];
        b.reaction_flow += r;
        b.flow_magnitude += std::fabs(r);
    }
    take_back(problem, totals, out);
    if (b.flow_magnitude > rounding_of_forces(out.solver, applied))
        b.relative_error = std::fabs(b.applied_flow + b.reaction_flow) / b.flow_magnitude;
}

double sum_of_magnitudes(const std::vector<double>& v) {
    double sum = 0;
    for (const double x : v) sum += std::fabs(x);
    return sum;
}

}  // namespace dotsift
