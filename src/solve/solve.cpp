#include "solve/solve.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "solve/acting/balance.hpp"
#include "solve/acting/loads.hpp"
#include "solve/case_groups.hpp"
#include "solve/material/thermal_strain.hpp"
#include "solve/material/volume_strain.hpp"

namespace dotsift {

StudySolver::StudySolver(const Mesh& mesh, const Study& study, bool keep)
    : mesh_(mesh), study_(study), keep_(keep), laws_(laws_of(study, mesh.region_names)) {
    for (auto& cases : case_groups(study)) {
        groups_.push_back(std::make_unique<Group>());
        groups_.back()->cases = std::move(cases);
    }
}

StudySolver::~StudySolver() = default;

StudySolver::Group& StudySolver::group_of(const std::string& load_case) {
    for (const auto& group : groups_)
        for (const auto& c : group->cases)
            if (c.name == load_case) return *group;
    throw InputError("no load case is named \"" + load_case + "\"");
}

std::vector<Solution> StudySolver::solve(const std::vector<StartFields>& start) {
    std::vector<Solution> out;
    for (const auto& group : groups_)
        for (const auto& c : group->cases) out.emplace_back().load_case = c.name;
    std::size_t first = 0;
    for (auto& group : groups_) {
        const std::size_t count = group->cases.size();
        const auto own = std::span(out).subspan(first, count);
        const auto guess = std::span(start).subspan(std::min(first, start.size()));
        if (study_.conducts()) solve_potential(*group, guess, own);
        if (!keep_) group->potential.reset();
        if (study_.elastic()) solve_displacement(*group, guess, own);
        if (!keep_) group->displacement.reset();
        first += count;
    }
    return out;
}

void StudySolver::iterate_potential(Group& group, const std::vector<std::vector<double>>& flow,
                                    const std::vector<double>& start) const {
    (void)settled_temperature(
        mesh_.node_of_slot.size(), study_.conduction.reference, start, [&](const std::vector<double>& temperature) {
            group.conductivity_factor = conductivity_factor(mesh_, study_, temperature);
            group.potential = std::make_unique<FieldSystem>(group.potential_problem, flow, study_.solver);
            return group.potential->solve(0, temperature);
        });
}

void StudySolver::solve_potential(Group& group, std::span<const StartFields> start, std::span<Solution> out) const {
    group.potential_problem = potential_problem(mesh_, study_, laws_, group.cases, &group.conductivity_factor);
    const PlaneProblem& problem = group.potential_problem;
    NodalLoads loads = nodal_flows(mesh_, study_, laws_, group.cases);
    if (study_.conductivity_changes())
        iterate_potential(group, loads.force, start.empty() ? std::vector<double>() : start[0].potential);
    else
        group.potential = std::make_unique<FieldSystem>(problem, loads.force, study_.solver);
    for (std::size_t c = 0; c < group.cases.size(); ++c) {
        Solution& s = out[c];
        s.potential = group.potential->solve(c, c < start.size() ? start[c].potential : std::vector<double>());
        s.conductivity_factor = group.conductivity_factor;
        s.unknowns += group.potential->unknowns();
        s.solver = group.potential->report();
        auto flow = internal_flows(mesh_, laws_, s, s.dissipation);
        (void)add_joints(problem.sourced, s.potential, flow);
        check_residual(problem.constraints, flow, loads.force[c],
                       sum_of_magnitudes(flow) + sum_of_magnitudes(loads.force[c]), s.solver);
        find_flow_reactions(problem, study_, flow, loads.force[c], loads.totals[c], s);
        s.loads = std::move(loads.totals[c]);
    }
}

void StudySolver::solve_displacement(Group& group, std::span<const StartFields> start, std::span<Solution> out) const {
    group.displacement_problem = displacement_problem(mesh_, study_, laws_, group.cases, &group.stiffness_factor);
    const PlaneProblem& problem = group.displacement_problem;
    const FieldLayout& layout = problem.layout;
    NodalLoads loads = nodal_forces(mesh_, study_, laws_, group.cases);
    auto forces = loads.force;
    for (std::size_t c = 0; c < group.cases.size(); ++c) {
        Solution& s = out[c];
        s.axial.centre = problem.centre;
        auto thermal = thermal_strain(mesh_, study_, group.cases[c], s.potential);
        s.temperature_change = std::move(thermal.change);
        s.temperature_slope = std::move(thermal.slope);
        s.stiffness_factor = std::move(thermal.stiffness_factor);
        s.stiffness_slope = std::move(thermal.stiffness_slope);
        if (!s.stiffness_factor.empty()) group.stiffness_factor = s.stiffness_factor;
        if (s.temperature_change.empty() && loads.inner[c].empty()) continue;
        // Stresses of the part as it is, held everywhere, but heated, or loaded inside of elements.
        s.displacement.assign(mesh_.nodes.size(), {});
        s.volume = volume_strains(mesh_, laws_, s, loads.inner[c]);
        double energy = 0;
        const auto held = internal_forces(problem, laws_, s, energy);
        for (std::size_t d = 0; d < held.size(); ++d) forces[c][d] -= held[d];
    }
    group.displacement = std::make_unique<FieldSystem>(problem, forces, study_.solver);
    for (std::size_t c = 0; c < group.cases.size(); ++c) {
        Solution& s = out[c];
        std::vector<double> guess;
        if (c < start.size() && !start[c].displacement.empty()) {
            guess.assign(static_cast<std::size_t>(layout.dofs), 0.0);
            for (std::size_t n = 0; n < mesh_.nodes.size(); ++n) add_at(guess, n, start[c].displacement[n]);
        }
        const auto v = group.displacement->solve(c, guess);
        const double flow_error = s.balance.relative_error;
        std::vector<SupportReaction> flows_of_supports;
        flows_of_supports.swap(s.reactions);
        s.unknowns += group.displacement->unknowns();
        s.solver = group.displacement->report();
        take_displacement(problem, v, s);
        s.volume = volume_strains(mesh_, laws_, s, loads.inner[c]);
        auto internal = internal_forces(problem, laws_, s, s.strain_energy);
        auto with_joints = internal;
        s.strain_energy += add_joints(problem.sourced, v, with_joints);
        // In a heated part that is free the forces are small beside those that would hold its expansion.
        double thermal = 0;
        for (std::size_t d = 0; d < forces[c].size(); ++d) thermal += std::fabs(forces[c][d] - loads.force[c][d]);
        check_residual(problem.constraints, with_joints, loads.force[c],
                       thermal + sum_of_magnitudes(with_joints) + sum_of_magnitudes(loads.force[c]), s.solver);
        const auto flows = s.loads;
        find_reactions(problem, study_, v, internal, loads.force[c], thermal, s);
        for (std::size_t k = 0; k < flows_of_supports.size(); ++k) s.reactions[k].flow = flows_of_supports[k].flow;
        s.balance.relative_error = std::max(s.balance.relative_error, flow_error);
        s.loads = std::move(loads.totals[c]);
        s.loads.insert(s.loads.end(), flows.begin(), flows.end());
        for (std::size_t r = 0; r < study_.remotes.size(); ++r) {
            const auto d = static_cast<std::size_t>(remote_dof(layout, r));
            s.remotes.push_back({study_.remotes[r].name, {{v[d], v[d + 1]}}, v[d + 2] / problem.arm});
        }
    }
}

void StudySolver::take_displacement(const PlaneProblem& problem, const std::vector<double>& v, Solution& s) const {
    s.displacement = vectors_at(v, mesh_.nodes.size());
    const FieldLayout& layout = problem.layout;
    s.axial.centre = problem.centre;
    if (!layout.shared) return;
    const auto k = static_cast<std::size_t>(layout.shared_first);
    s.axial.e = v[k];
    s.axial.tilt = Vec2{{v[k + 1], v[k + 2]}} / problem.arm;
}

Solution StudySolver::dual_displacement(const std::string& load_case, const std::vector<double>& force,
                                        const std::vector<double>& lift) {
    Group& group = group_of(load_case);
    Solution s;
    s.load_case = load_case;
    s.stiffness_factor = group.stiffness_factor;
    take_displacement(group.displacement_problem, lifted(group.displacement->respond(force), lift), s);
    s.volume = volume_strains(mesh_, laws_, s, {});
    return s;
}

Solution StudySolver::dual_potential(const std::string& load_case, const std::vector<double>& flow,
                                     const std::vector<double>& lift) {
    Group& group = group_of(load_case);
    Solution s;
    s.load_case = load_case;
    s.conductivity_factor = group.conductivity_factor;
    s.potential = lifted(group.potential->respond(flow), lift);
    return s;
}

Stress stress_at(const Mesh& mesh, const Laws& laws, const Solution& s, std::size_t e, const ElementPoint& p) {
    const ElasticLaw& law = laws.of(mesh.region[e]).elastic;
    const double change = slot_value(mesh, s.temperature_change, e, p);
    Strain strain = strain_at(mesh, laws.plane, s.displacement, s.axial, e, p);
    if (!s.volume.empty()) correct_volume(mesh, laws, s.volume[e], e, p, change, strain);
    return scaled(law.stress(strain, change), stiffness_at(mesh, s, e, p));
}

Stress3 stress_at(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& s, std::size_t e,
                  const ElementPointIn<3>& p) {
    const double change = slot_value(mesh, s.temperature_change, e, p);
    return scaled(laws.of(mesh.region[e]).elastic.stress(strain_at(mesh, s.displacement, e, p), change),
                  stiffness_at(mesh, s, e, p));
}

std::vector<Solution> solve_cases(const Mesh& mesh, const Study& study) {
    return StudySolver(mesh, study, false).solve();
}

Solution solve_study(const Mesh& mesh, const Study& study) {
    return std::move(solve_cases(mesh, study).front());
}

}  // namespace dotsift
