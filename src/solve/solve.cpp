#include "solve/solve.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>

#include "base/errors.hpp"
#include "base/parallel.hpp"
#include "solve/assembly.hpp"
#include "solve/loads.hpp"
#include "solve/multigrid.hpp"
#include "solve/supports.hpp"

namespace dotsift {

namespace {

// A solution that leaves more than this share of the forces unbalanced is none.
constexpr double worst_balance = 1e-8;
// Where no load acts and nothing flows, or nothing is strained, all forces are rounding: this share of what the
// equations' entries make of the solution.
constexpr double rounding_direct = 1e-12, rounding_iterative = 1e-8;
double rounding_of(const SolverReport& r, const std::vector<double>& applied) {
    const bool loaded = std::any_of(applied.begin(), applied.end(), [](double f) { return f != 0; });
    return loaded ? 0 : (r.steps > 0 ? rounding_iterative : rounding_direct) * r.scale;
}
// Below this many unknowns the direct solver is faster (measured: docs/performance.md).
constexpr std::int64_t direct_below = 100'000;
// With more right sides than this its factor pays.
constexpr std::size_t most_iterated_cases = 3;

/// Forces with which the stressed elements pull at the degrees of freedom, and the elastic energy.
std::vector<double> internal_forces(const Mesh& mesh, const Laws& laws, const FieldLayout& layout, const Solution& s,
                                    const Vec2& centre, double arm, double& energy) {
    std::vector<double> force(static_cast<std::size_t>(layout.dofs), 0.0);
    const ColouredPieces pieces = coloured_pieces(mesh);
    std::vector<double> energies(mesh.element_count());
    // Shared degrees of freedom are summed element by element afterwards, in a fixed order.
    std::vector<std::array<double, most_shared_dofs>> shared(layout.shared ? mesh.element_count() : 0);
    const auto element = [&](std::size_t e) {
        const auto nodes = mesh.element(e);
        const auto positions = mesh.positions(e);
        const auto& law = laws.of(mesh.region[e]).elastic;
        for (const auto& q : integration_points(mesh, e, laws.plane, positions)) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q);
            const Tensor4 t = stress_at(mesh, laws, s, e, p);
            const double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
            energies[e] += 0.5 * w * law.energy_norm2(t);
            for (std::size_t i = 0; i < nodes.size(); ++i) {
                const auto n = 2 * static_cast<std::size_t>(nodes[i]);
                double x = p.dn[i][0] * t[0] + p.dn[i][1] * t[2];
                if (laws.axisymmetric()) x += p.n[i] / p.position[0] * t[3];
                force[n] += w * x;
                force[n + 1] += w * (p.dn[i][1] * t[1] + p.dn[i][0] * t[2]);
            }
            if (layout.shared) {
                const Vec2 from = (p.position - centre) / arm;
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
        for (const auto& q : integration_points(mesh, e, laws.plane, positions)) {
            const ElementPoint p = evaluate(mesh.kinds[e], positions, q);
            const Vec2 f = flux_at(mesh, laws, s, e, p);
            const double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
            dissipation += w * laws.of(mesh.region[e]).conduction.energy_norm2(f);
            for (std::size_t i = 0; i < slots.size(); ++i)
                flow[static_cast<std::size_t>(slots[i])] -= w * dot(p.dn[i], f);
        }
    }
    return flow;
}

/// What joints do to the degrees of freedom, added to `force`; and their energy.
double add_joints(const std::vector<SourcedJoint>& joints, const std::vector<double>& value,
                  std::vector<double>& force) {
    double energy = 0;
    for (const auto& j : joints) {
        const auto& d = j.joint.dofs;
        for (std::size_t a = 0; a < d.size(); ++a) {
            double f = 0;
            for (std::size_t b = 0; b < d.size(); ++b)
                f += j.joint.matrix[a * d.size() + b] * value[static_cast<std::size_t>(d[b])];
            force[static_cast<std::size_t>(d[a])] += f;
            energy += 0.5 * f * value[static_cast<std::size_t>(d[a])];
        }
    }
    return energy;
}

/// The same problem on linear elements, for the iterative solver.
struct LinearProblem {
    LinearMesh corners;
    FieldLayout layout;
    Constraints constraints;
    std::vector<Joint> joints;
};
using MakeLinear = std::function<LinearProblem()>;

/// Solves every right side.
std::vector<std::vector<double>> solve_with(LinearSolver& solver, const Assembly& assembly, const System& system,
                                            std::vector<SolverReport>& reports) {
    std::vector<std::vector<double>> values;
    reports.clear();
    solver.factor(system.matrix, system.order);
    for (std::size_t c = 0; c < system.right_side.size(); ++c) {
        values.push_back(assembly.constraints.expand(solver.solve(system.right_side[c]), c));
        reports.push_back(solver.report());
        reports.back().assembly_seconds = system.pattern_seconds + system.numeric_seconds;
        reports.back().order_seconds = system.order_seconds;
    }
    return values;
}

/// Solves every case; one vector of values of all degrees of freedom each. Small systems, many cases and flat elements
/// are for the direct solver; large ones for the iteration, which needs less memory; if that stalls, the direct one.
std::vector<std::vector<double>> solve_system(const Assembly& assembly, const std::vector<std::vector<double>>& forces,
                                              const MakeLinear& make_linear, const SolverSpec& wanted,
                                              std::vector<SolverReport>& reports, std::int64_t& unknowns) {
    const System system = assemble(assembly, forces);
    unknowns = system.matrix.size;
    std::vector<std::vector<double>> values;
    if (unknowns == 0) {  // everything is prescribed
        for (std::size_t c = 0; c < forces.size(); ++c) {
            values.push_back(assembly.constraints.expand({}, c));
            reports.emplace_back();
            reports.back().method = "nothing to solve";
        }
        return values;
    }
    const auto direct = make_direct_solver();
    const bool possible = suits_multigrid(assembly.mesh);
    const double memory = wanted.most_memory.value_or(memory_share * available_memory());
    bool iterate = false;
    switch (wanted.method) {
        case SolverMethod::iterative:
            iterate = true;
            break;
        case SolverMethod::automatic:
            iterate = possible && unknowns >= direct_below && forces.size() <= most_iterated_cases;
            if (!iterate && possible) iterate = direct->analyse(system.matrix, system.order) > memory;
            break;
        case SolverMethod::direct:
            break;
    }
    if (iterate) {
        try {
            const LinearProblem linear = make_linear();
            const auto solver = make_multigrid_solver(
                coarse_space(assembly, linear.corners, linear.layout, linear.constraints, linear.joints),
                system.first_unknown);
            const double needed = solver->analyse(system.matrix, system.order),
                         free = memory_share * available_memory();
            if (needed > free)
                throw SolveError(
                    fmt::format("{} unknowns need {:.2g} GB even without a factor of all of them, but only {:.2g} "
                                "GB of memory may be taken",
                                unknowns, needed / 1e9, free / 1e9),
                    {}, "ask for larger elements, or use a machine with more memory");
            return solve_with(*solver, assembly, system, reports);
        } catch (const SolveError&) {
            if (wanted.method == SolverMethod::iterative) throw;
            reports.clear();  // it stalls: the direct solver is left
        }
    }
    try {
        const double needed = direct->analyse(system.matrix, system.order);
        if (needed > memory)
            throw SolveError(
                fmt::format("the factor of {} unknowns needs {:.2g} GB, but it may take only {:.2g} GB", unknowns,
                            needed / 1e9, memory / 1e9),
                {},
                possible ? "ask for larger elements, or use a machine with more memory"
                         : "use mesh.order = 2 and elements that are not flat, whose systems can be solved with "
                           "less memory, or ask for larger elements");
        return solve_with(*direct, assembly, system, reports);
    } catch (const SolveError& e) {
        if (direct->bad_unknown() < 0) throw;
        const auto found =
            std::upper_bound(system.first_unknown.begin(), system.first_unknown.end(), direct->bad_unknown());
        Place place = e.place();
        const auto node = static_cast<std::size_t>(found - system.first_unknown.begin()) - 1;
        const bool by_slot = assembly.layout.connectivity.data() == assembly.mesh.slots.data();
        if (node < static_cast<std::size_t>(assembly.layout.nodes))
            place.position =
                assembly.mesh.nodes[by_slot ? static_cast<std::size_t>(assembly.mesh.node_of_slot[node]) : node];
        throw SolveError(e.what(), place, e.remedy());
    }
}

std::vector<Joint> bare(const std::vector<SourcedJoint>& joints) {
    std::vector<Joint> out;
    out.reserve(joints.size());
    for (const auto& j : joints) out.push_back(j.joint);
    return out;
}

/// For each node or slot the supports and ties that hold it, in their order, without repetitions.
std::vector<std::vector<int>> holders(const std::vector<ConstraintRow>& rows, const FieldLayout& layout) {
    std::vector<std::vector<int>> of(static_cast<std::size_t>(layout.nodes));
    for (const auto& r : rows) {
        if (r.source < 0) continue;
        for (const auto& [d, a] : r.terms) {
            const auto n = static_cast<std::size_t>(d / layout.components);
            if (n >= of.size()) continue;
            if (of[n].empty() || of[n].back() != r.source) of[n].push_back(r.source);
        }
    }
    return of;
}

/// The directions in which supports hold a node, for sharing its force among them.
struct Held {
    Vec2 direction;
    int source;
};

void share_reaction(const std::vector<Held>& held, const Vec2& force, const Vec2& position, Solution& out) {
    const auto give = [&](int source, const Vec2& f) {
        auto& r = out.reactions[static_cast<std::size_t>(source)];
        r.force += f;
        r.moment += cross(position, f);
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

void find_reactions(const Mesh& mesh, const Study& study, const FieldLayout& layout,
                    const std::vector<ConstraintRow>& rows, const std::vector<SourcedJoint>& joints,
                    const std::vector<double>& value, const std::vector<double>& internal,
                    const std::vector<double>& applied, double thermal, Solution& out) {
    const int sources = static_cast<int>(study.supports.size() + study.periodic.size() + study.remotes.size());
    for (int s = 0; s < sources; ++s) {
        const std::string name = source_name(study, s);
        out.reactions.push_back({name.substr(name.find('.') + 1), {}, 0, 0});
    }
    auto& b = out.balance;
    std::vector<std::vector<Held>> local(mesh.nodes.size());
    for (const auto& r : rows) {
        const auto n = static_cast<std::size_t>(r.terms.front().first / 2);
        if (n >= mesh.nodes.size() || static_cast<std::size_t>(r.source) >= study.supports.size()) continue;
        Vec2 d;
        for (const auto& [dof, a] : r.terms) d[static_cast<std::size_t>(dof % 2)] = a;
        local[n].push_back({d, r.source});
    }
    const auto tied = holders(rows, layout);
    std::vector<double> from_joints(value.size(), 0.0);
    for (const auto& j : joints) {
        if (j.support < 0) continue;
        auto& r = out.reactions[static_cast<std::size_t>(j.support)];
        const auto& dofs = j.joint.dofs;
        for (std::size_t a = 0; a < dofs.size(); ++a) {
            double sum = 0;
            for (std::size_t c = 0; c < dofs.size(); ++c)
                sum += j.joint.matrix[a * dofs.size() + c] * value[static_cast<std::size_t>(dofs[c])];
            from_joints[static_cast<std::size_t>(dofs[a])] += sum;
            Vec2 at;
            at[static_cast<std::size_t>(dofs[a] % 2)] = -sum;
            r.force += at;
            r.moment += cross(mesh.nodes[static_cast<std::size_t>(dofs[a] / 2)], at);
        }
    }
    const Vec2 zero;
    Box2 box;
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n) {
        box.add(mesh.nodes[n]);
        const Vec2 f{{applied[2 * n], applied[2 * n + 1]}};
        const Vec2 springs{{from_joints[2 * n], from_joints[2 * n + 1]}};
        b.applied += f;
        b.applied_moment += cross(mesh.nodes[n], f);
        b.magnitude += norm(f);
        Vec2 r = Vec2{{internal[2 * n], internal[2 * n + 1]}} + springs - f;
        if (!(springs == zero)) {
            b.reaction -= springs;
            b.reaction_moment -= cross(mesh.nodes[n], springs);
            b.magnitude += norm(springs);
        }
        if (tied[n].empty()) continue;
        if (!local[n].empty()) {
            share_reaction(local[n], r, mesh.nodes[n], out);
        } else {
            auto& reaction = out.reactions[static_cast<std::size_t>(tied[n].front())];
            reaction.force += r;
            reaction.moment += cross(mesh.nodes[n], r);
        }
        b.reaction += r;
        b.reaction_moment += cross(mesh.nodes[n], r);
        b.magnitude += norm(r);
    }
    // A force at a remote point comes to the part through the tie; what holds the point is the rest.
    for (std::size_t k = 0; k < study.remotes.size(); ++k) {
        if (!study.remotes[k].rigid) continue;
        const auto d = static_cast<std::size_t>(remote_dof(layout, k));
        const Vec2 f{{applied[d], applied[d + 1]}};
        const double moment = applied[d + 2] * arm_of(mesh) + cross(study.remotes[k].at, f);
        b.applied += f;
        b.applied_moment += moment;
        b.reaction -= f;
        b.reaction_moment -= moment;
        b.magnitude += norm(f);
        auto& r = out.reactions[study.supports.size() + study.periodic.size() + k];
        r.force -= f;
        r.moment -= moment;
    }
    b.magnitude += thermal;
    const Vec2 sum = b.applied + b.reaction;
    const double arm = std::max(box.diagonal(), norm(box.centre()));
    if (b.magnitude > rounding_of(out.solver, applied))
        b.relative_error = laws_of(study, mesh.region_names).axisymmetric()
                               ? std::fabs(sum[1]) / b.magnitude
                               : std::max({std::fabs(sum[0]), std::fabs(sum[1]),
                                           std::fabs(b.applied_moment + b.reaction_moment) / arm}) /
                                     b.magnitude;
}

/// The largest force left where nothing holds, relative to the largest nodal force.
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
    if (!(worst <= worst_balance * magnitude) && !(worst <= rounding_of(solver, applied)) && magnitude > 0)
        throw SolveError(fmt::format("loads and reactions do not balance: they leave {:.2g} of the forces at work",
                                     worst / magnitude),
                         {}, "the part is not held, or its constants differ by too many orders of magnitude");
}

double sum_of_magnitudes(const std::vector<double>& v) {
    double sum = 0;
    for (const double x : v) sum += std::fabs(x);
    return sum;
}

void solve_potential(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<CaseSpec>& cases,
                     std::vector<Solution>& out) {
    const FieldLayout layout = potential_layout(mesh);
    const auto rows = potential_rows(mesh, study, cases);
    const Constraints constraints = constraints_of(layout, rows, cases.size(), mesh, study);
    NodalLoads loads = nodal_flows(mesh, study, laws, cases);
    const auto sourced = transfers(mesh, study, laws);
    const auto joints = bare(sourced);
    std::vector<SolverReport> reports;
    std::int64_t unknowns = 0;
    auto values = solve_system(
        {mesh, layout, constraints, [&](std::size_t e, ElementMatrix& k) { conduction_matrix(mesh, laws, e, k); },
         joints},
        loads.force,
        [&] {
            LinearProblem p;
            p.corners = linear_mesh(mesh);
            p.layout = potential_layout(p.corners.mesh);
            p.constraints = constraints_of(p.layout, potential_rows(p.corners.mesh, study, cases), cases.size(),
                                           p.corners.mesh, study);
            p.joints = bare(transfers(p.corners.mesh, study, laws));
            return p;
        },
        study.solver, reports, unknowns);
    for (std::size_t c = 0; c < cases.size(); ++c) {
        Solution& s = out[c];
        s.potential = std::move(values[c]);
        s.unknowns += unknowns;
        s.solver = reports[c];
        auto flow = internal_flows(mesh, laws, s, s.dissipation);
        (void)add_joints(sourced, s.potential, flow);
        check_residual(constraints, flow, loads.force[c], sum_of_magnitudes(flow) + sum_of_magnitudes(loads.force[c]),
                       s.solver);
        for (const auto& support : study.supports) s.reactions.push_back({support.name, {}, 0, 0});
        for (const auto& p : study.periodic) s.reactions.push_back({p.name, {}, 0, 0});
        const auto held = holders(rows, layout);
        for (std::size_t n = 0; n < held.size(); ++n) {
            const double r = flow[n] - loads.force[c][n];
            s.balance.applied_flow += loads.force[c][n];
            s.balance.flow_magnitude += std::fabs(loads.force[c][n]);
            if (held[n].empty()) continue;
            s.reactions[static_cast<std::size_t>(held[n].front())].flow += r;
            s.balance.reaction_flow += r;
            s.balance.flow_magnitude += std::fabs(r);
        }
        // What the surroundings take back belongs to the load.
        for (const auto& j : sourced) {
            const auto& d = j.joint.dofs;
            double back = 0;
            for (std::size_t a = 0; a < d.size(); ++a)
                for (std::size_t b = 0; b < d.size(); ++b)
                    back += j.joint.matrix[a * d.size() + b] * s.potential[static_cast<std::size_t>(d[b])];
            s.balance.reaction_flow -= back;
            if (j.load >= 0) loads.totals[c][static_cast<std::size_t>(j.load)].flow -= back;
        }
        if (s.balance.flow_magnitude > rounding_of(s.solver, loads.force[c]))
            s.balance.relative_error =
                std::fabs(s.balance.applied_flow + s.balance.reaction_flow) / s.balance.flow_magnitude;
        s.loads = std::move(loads.totals[c]);
    }
}

void solve_displacement(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<CaseSpec>& cases,
                        std::vector<Solution>& out) {
    const FieldLayout layout = displacement_layout(mesh, study);
    const double arm = arm_of(mesh);
    Box2 box;
    for (const auto& p : mesh.nodes) box.add(p);
    const Vec2 centre = box.centre();
    const auto rows = displacement_rows(mesh, study, cases);
    const Constraints constraints = constraints_of(layout, rows, cases.size(), mesh, study);
    NodalLoads loads = nodal_forces(mesh, study, laws, cases);
    const auto sourced = foundations(mesh, study, laws);
    const auto joints = bare(sourced);
    auto forces = loads.force;
    for (std::size_t c = 0; c < cases.size(); ++c) {
        Solution& s = out[c];
        s.axial.centre = centre;
        s.temperature_change = prescribed_temperature_change(mesh, study, cases[c]);
        if (!s.potential.empty()) {
            if (s.temperature_change.empty()) s.temperature_change.assign(s.potential.size(), 0.0);
            for (std::size_t n = 0; n < s.potential.size(); ++n)
                s.temperature_change[n] += s.potential[n] - study.conduction.reference;
        }
        if (s.temperature_change.empty()) continue;
        // Stresses of the part as it is, held everywhere, but heated.
        s.displacement.assign(mesh.nodes.size(), {});
        double energy = 0;
        const auto held = internal_forces(mesh, laws, layout, s, centre, arm, energy);
        for (std::size_t d = 0; d < held.size(); ++d) forces[c][d] -= held[d];
    }
    std::vector<SolverReport> reports;
    std::int64_t unknowns = 0;
    const auto values = solve_system(
        {mesh, layout, constraints,
         [&](std::size_t e, ElementMatrix& k) { elastic_matrix(mesh, laws, e, centre, arm, k); }, joints},
        forces,
        [&] {
            LinearProblem p;
            p.corners = linear_mesh(mesh);
            p.layout = displacement_layout(p.corners.mesh, study);
            p.constraints = constraints_of(p.layout, displacement_rows(p.corners.mesh, study, cases), cases.size(),
                                           p.corners.mesh, study);
            p.joints = bare(foundations(p.corners.mesh, study, laws));
            return p;
        },
        study.solver, reports, unknowns);
    for (std::size_t c = 0; c < cases.size(); ++c) {
        Solution& s = out[c];
        const auto& v = values[c];
        const double flow_error = s.balance.relative_error;
        std::vector<SupportReaction> flows_of_supports;
        flows_of_supports.swap(s.reactions);
        s.unknowns += unknowns;
        s.solver = reports[c];
        s.displacement.resize(mesh.nodes.size());
        for (std::size_t n = 0; n < mesh.nodes.size(); ++n) s.displacement[n] = {{v[2 * n], v[2 * n + 1]}};
        if (layout.shared) {
            const auto k = static_cast<std::size_t>(layout.shared_first);
            s.axial.e = v[k];
            s.axial.tilt = Vec2{{v[k + 1], v[k + 2]}} / arm;
        }
        auto internal = internal_forces(mesh, laws, layout, s, centre, arm, s.strain_energy);
        auto with_joints = internal;
        s.strain_energy += add_joints(sourced, v, with_joints);
        // In a heated part that is free the forces are small beside those that would hold its expansion.
        double thermal = 0;
        for (std::size_t d = 0; d < forces[c].size(); ++d) thermal += std::fabs(forces[c][d] - loads.force[c][d]);
        check_residual(constraints, with_joints, loads.force[c],
                       thermal + sum_of_magnitudes(with_joints) + sum_of_magnitudes(loads.force[c]), s.solver);
        const auto flows = s.loads;
        find_reactions(mesh, study, layout, rows, sourced, v, internal, loads.force[c], thermal, s);
        for (std::size_t k = 0; k < flows_of_supports.size(); ++k) s.reactions[k].flow = flows_of_supports[k].flow;
        s.balance.relative_error = std::max(s.balance.relative_error, flow_error);
        s.loads = std::move(loads.totals[c]);
        s.loads.insert(s.loads.end(), flows.begin(), flows.end());
        for (std::size_t r = 0; r < study.remotes.size(); ++r) {
            const auto d = static_cast<std::size_t>(remote_dof(layout, r));
            s.remotes.push_back({study.remotes[r].name, {{v[d], v[d + 1]}}, v[d + 2] / arm});
        }
    }
}

}  // namespace

Tensor4 stress_at(const Mesh& mesh, const Laws& laws, const Solution& s, std::size_t e, const ElementPoint& p) {
    return laws.of(mesh.region[e])
        .elastic.stress(strain_at(mesh, laws.plane, s.displacement, s.axial, e, p),
                        slot_value(mesh, s.temperature_change, e, p));
}

Vec2 flux_at(const Mesh& mesh, const Laws& laws, const Solution& s, std::size_t e, const ElementPoint& p) {
    return laws.of(mesh.region[e]).conduction.flux(slot_gradient(mesh, s.potential, e, p));
}

std::vector<Solution> solve_cases(const Mesh& mesh, const Study& study) {
    const auto cases = study.cases_to_solve();
    const Laws laws = laws_of(study, mesh.region_names);
    std::vector<Solution> out(cases.size());
    for (std::size_t c = 0; c < cases.size(); ++c) out[c].load_case = cases[c].name;
    if (study.conducts()) solve_potential(mesh, study, laws, cases, out);
    if (study.elastic()) solve_displacement(mesh, study, laws, cases, out);
    return out;
}

Solution solve_study(const Mesh& mesh, const Study& study) {
    return std::move(solve_cases(mesh, study).front());
}

}  // namespace dotsift
