#include "solve/solve.hpp"

#include <algorithm>
#include <cmath>

#include "solve/balance.hpp"
#include "solve/loads.hpp"
#include "solve/volume_strain.hpp"

namespace dotsift {

StudySolver::StudySolver(const Mesh& mesh, const Study& study, bool keep)
    : mesh_(mesh),
      study_(study),
      keep_(keep),
      cases_(study.cases_to_solve()),
      laws_(laws_of(study, mesh.region_names)) {}

StudySolver::~StudySolver() = default;

std::vector<Solution> StudySolver::solve(const std::vector<StartFields>& start) {
    std::vector<Solution> out(cases_.size());
    for (std::size_t c = 0; c < cases_.size(); ++c) out[c].load_case = cases_[c].name;
    if (study_.conducts()) solve_potential(start, out);
    if (!keep_) potential_.reset();
    if (study_.elastic()) solve_displacement(start, out);
    if (!keep_) displacement_.reset();
    return out;
}

void StudySolver::solve_potential(const std::vector<StartFields>& start, std::vector<Solution>& out) {
    potential_problem_ = potential_problem(mesh_, study_, laws_, cases_);
    const FieldProblem& problem = potential_problem_;
    NodalLoads loads = nodal_flows(mesh_, study_, laws_, cases_);
    potential_ = std::make_unique<FieldSystem>(problem, loads.force, study_.solver);
    for (std::size_t c = 0; c < cases_.size(); ++c) {
        Solution& s = out[c];
        s.potential = potential_->solve(c, c < start.size() ? start[c].potential : std::vector<double>());
        s.unknowns += potential_->unknowns();
        s.solver = potential_->report();
        auto flow = internal_flows(mesh_, laws_, s, s.dissipation);
        (void)add_joints(problem.sourced, s.potential, flow);
        check_residual(problem.constraints, flow, loads.force[c],
                       sum_of_magnitudes(flow) + sum_of_magnitudes(loads.force[c]), s.solver);
        find_flow_reactions(problem, study_, flow, loads.force[c], loads.totals[c], s);
        s.loads = std::move(loads.totals[c]);
    }
}

void StudySolver::solve_displacement(const std::vector<StartFields>& start, std::vector<Solution>& out) {
    displacement_problem_ = displacement_problem(mesh_, study_, laws_, cases_);
    const FieldProblem& problem = displacement_problem_;
    const FieldLayout& layout = problem.layout;
    NodalLoads loads = nodal_forces(mesh_, study_, laws_, cases_);
    auto forces = loads.force;
    for (std::size_t c = 0; c < cases_.size(); ++c) {
        Solution& s = out[c];
        s.axial.centre = problem.centre;
        s.temperature_change = prescribed_temperature_change(mesh_, study_, cases_[c]);
        if (!s.potential.empty()) {
            if (s.temperature_change.empty()) s.temperature_change.assign(s.potential.size(), 0.0);
            for (std::size_t n = 0; n < s.potential.size(); ++n)
                s.temperature_change[n] += s.potential[n] - study_.conduction.reference;
        }
        if (s.temperature_change.empty() && loads.inner[c].empty()) continue;
        // Stresses of the part as it is, held everywhere, but heated, or loaded inside of elements.
        s.displacement.assign(mesh_.nodes.size(), {});
        s.volume = volume_strains(mesh_, laws_, s, loads.inner[c]);
        double energy = 0;
        const auto held = internal_forces(problem, laws_, s, energy);
        for (std::size_t d = 0; d < held.size(); ++d) forces[c][d] -= held[d];
    }
    displacement_ = std::make_unique<FieldSystem>(problem, forces, study_.solver);
    for (std::size_t c = 0; c < cases_.size(); ++c) {
        Solution& s = out[c];
        std::vector<double> guess;
        if (c < start.size() && !start[c].displacement.empty()) {
            guess.assign(static_cast<std::size_t>(layout.dofs), 0.0);
            for (std::size_t n = 0; n < mesh_.nodes.size(); ++n)
                for (std::size_t i = 0; i < 2; ++i) guess[2 * n + i] = start[c].displacement[n][i];
        }
        const auto v = displacement_->solve(c, guess);
        const double flow_error = s.balance.relative_error;
        std::vector<SupportReaction> flows_of_supports;
        flows_of_supports.swap(s.reactions);
        s.unknowns += displacement_->unknowns();
        s.solver = displacement_->report();
        take_displacement(v, s);
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

void StudySolver::take_displacement(const std::vector<double>& v, Solution& s) const {
    s.displacement.resize(mesh_.nodes.size());
    for (std::size_t n = 0; n < mesh_.nodes.size(); ++n) s.displacement[n] = {{v[2 * n], v[2 * n + 1]}};
    const FieldLayout& layout = displacement_problem_.layout;
    s.axial.centre = displacement_problem_.centre;
    if (!layout.shared) return;
    const auto k = static_cast<std::size_t>(layout.shared_first);
    s.axial.e = v[k];
    s.axial.tilt = Vec2{{v[k + 1], v[k + 2]}} / displacement_problem_.arm;
}

namespace {

std::vector<double> lifted(std::vector<double> response, const std::vector<double>& lift) {
    for (std::size_t d = 0; d < lift.size(); ++d) response[d] = lift[d] - response[d];
    return response;
}

}  // namespace

Solution StudySolver::dual_displacement(const std::vector<double>& force, const std::vector<double>& lift) {
    Solution s;
    take_displacement(lifted(displacement_->respond(force), lift), s);
    s.volume = volume_strains(mesh_, laws_, s, {});
    return s;
}

Solution StudySolver::dual_potential(const std::vector<double>& flow, const std::vector<double>& lift) {
    Solution s;
    s.potential = lifted(potential_->respond(flow), lift);
    return s;
}

Tensor4 stress_at(const Mesh& mesh, const Laws& laws, const Solution& s, std::size_t e, const ElementPoint& p) {
    const ElasticLaw& law = laws.of(mesh.region[e]).elastic;
    const double change = slot_value(mesh, s.temperature_change, e, p);
    Tensor4 strain = strain_at(mesh, laws.plane, s.displacement, s.axial, e, p);
    if (!s.volume.empty()) correct_volume(mesh, laws, s.volume[e], e, p, change, strain);
    return law.stress(strain, change);
}

Vec2 flux_at(const Mesh& mesh, const Laws& laws, const Solution& s, std::size_t e, const ElementPoint& p) {
    return laws.of(mesh.region[e]).conduction.flux(slot_gradient(mesh, s.potential, e, p));
}

std::vector<Solution> solve_cases(const Mesh& mesh, const Study& study) {
    return StudySolver(mesh, study, false).solve();
}

Solution solve_study(const Mesh& mesh, const Study& study) {
    return std::move(solve_cases(mesh, study).front());
}

}  // namespace dotsift
