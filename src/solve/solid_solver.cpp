#include "solve/solid_solver.hpp"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.hpp"
#include "solve/acting/balance.hpp"
#include "solve/acting/loads.hpp"
#include "solve/acting/solid_balance.hpp"
#include "solve/acting/solid_supports.hpp"
#include "solve/case_groups.hpp"
#include "solve/material/thermal_strain.hpp"
#include "solve/solid_problem.hpp"
#include "solve/system/field_system.hpp"

namespace dotsift {

namespace {

// In space a factor grows faster: from so many unknowns on the iteration is quicker (measured: docs/performance.md).
constexpr std::int64_t many_unknowns_in_space = 10'000;

/// Which supports contradict each other, and where.
[[noreturn]] void tell_contradiction(const Study& study, const SolidMesh& mesh, const ConstraintRow& row,
                                     const ConstraintRow& earlier, int components) {
    const auto name = [&](int source) {
        return source < 0 ? std::string("the join of two regions")
                          : "support." + study.supports[static_cast<std::size_t>(source)].name;
    };
    Place place;
    if (row.source >= 0) place = place_in(study.path, study.supports[static_cast<std::size_t>(row.source)].where);
    const auto at = static_cast<std::size_t>(row.terms.front().first / components);
    place.position = mesh.nodes[components == 3 ? at : static_cast<std::size_t>(mesh.node_of_slot[at])];
    const char* what = components == 3 ? "displacements" : "potentials";
    throw InputError(
        row.source == earlier.source
            ? fmt::format("{} contradicts itself: it gives the same point different {}", name(row.source), what)
            : fmt::format("{} and {} contradict each other: they give the same point different {}",
                          name(earlier.source), name(row.source), what),
        place, "let only one of them hold that direction there");
}

}  // namespace

SolidLaws solid_laws(const Study& study, const std::vector<std::string>& regions) {
    SolidLaws laws;
    for (const auto& region : regions) laws.regions.push_back(solid_law(*material_of(study, region)));
    return laws;
}

SolidSolver::SolidSolver(const SolidMesh& mesh, const Study& study, const SolidLaws& laws, bool keep)
    : mesh_(mesh), study_(study), laws_(laws), keep_(keep) {
    for (auto& cases : case_groups(study)) {
        groups_.push_back(std::make_unique<Group>());
        groups_.back()->cases = std::move(cases);
    }
}
SolidSolver::~SolidSolver() = default;

SolidSolver::Group& SolidSolver::group_of(const std::string& load_case) const {
    for (const auto& group : groups_)
        for (const auto& c : group->cases)
            if (c.name == load_case) return *group;
    throw InputError("no load case is named \"" + load_case + "\"");
}

void SolidSolver::solve_potential(Group& group, std::span<const SolidStart> start, std::span<SolutionIn<3>> out) const {
    const auto& cases = group.cases;
    group.potential_problem = solid_potential(
        mesh_, laws_, [this, &cases](const SolidMesh& on) { return solid_potential_rows(on, study_, cases); },
        cases.size(),
        [this](const ConstraintRow& row, const ConstraintRow& earlier) {
            tell_contradiction(study_, mesh_, row, earlier, 1);
        },
        {[this](const SolidMesh& on) { return transfers<3>(on, study_, laws_); }, study_.resistances},
        &group.conductivity_factor);
    const FieldProblem& problem = group.potential_problem;
    NodalLoads loads = nodal_loads(mesh_, study_, laws_, problem.layout, cases);
    const auto system = [&] {
        group.potential = std::make_unique<FieldSystem>(problem, loads.force, study_.solver, many_unknowns_in_space);
    };
    if (study_.conductivity_changes()) {
        (void)settled_temperature(mesh_.node_of_slot.size(), study_.conduction.reference,
                                  start.empty() ? std::vector<double>() : start[0].potential,
                                  [&](const std::vector<double>& temperature) {
                                      group.conductivity_factor = conductivity_factor(mesh_, study_, temperature);
                                      system();
                                      return group.potential->solve(0, temperature);
                                  });
    } else {
        system();
    }
    for (std::size_t c = 0; c < cases.size(); ++c) {
        SolutionIn<3>& s = out[c];
        s.potential = group.potential->solve(c, c < start.size() ? start[c].potential : std::vector<double>());
        s.conductivity_factor = group.conductivity_factor;
        s.unknowns += group.potential->unknowns();
        s.solver = group.potential->report();
        auto flow = solid_internal_flows(mesh_, laws_, s, s.dissipation);
        (void)add_joints(problem.sourced, s.potential, flow);
        check_residual(problem.constraints, flow, loads.force[c],
                       sum_of_magnitudes(flow) + sum_of_magnitudes(loads.force[c]), s.solver);
        find_solid_flow_reactions(problem, study_, flow, loads.force[c], loads.totals[c], s);
        s.loads = std::move(loads.totals[c]);
    }
}

void SolidSolver::solve_displacement(Group& group, std::span<const SolidStart> start,
                                     std::span<SolutionIn<3>> out) const {
    const auto& cases = group.cases;
    group.displacement_problem = solid_displacement(
        mesh_, laws_, [this, &cases](const SolidMesh& on) { return solid_displacement_rows(on, study_, cases); },
        cases.size(),
        [this](const ConstraintRow& row, const ConstraintRow& earlier) {
            tell_contradiction(study_, mesh_, row, earlier, 3);
        },
        {[this](const SolidMesh& on) { return foundations<3>(on, study_, laws_); }, {}}, &group.stiffness_factor);
    const FieldProblem& problem = group.displacement_problem;
    NodalLoads loads = nodal_loads(mesh_, study_, laws_, problem.layout, cases);
    auto forces = loads.force;
    for (std::size_t c = 0; c < cases.size(); ++c) {
        SolutionIn<3>& s = out[c];
        auto thermal = thermal_strain(mesh_, study_, cases[c], s.potential);
        s.temperature_change = std::move(thermal.change);
        s.temperature_slope = std::move(thermal.slope);
        s.stiffness_factor = std::move(thermal.stiffness_factor);
        s.stiffness_slope = std::move(thermal.stiffness_slope);
        if (!s.stiffness_factor.empty()) group.stiffness_factor = s.stiffness_factor;
        if (s.temperature_change.empty()) continue;
        // Stresses of the part as it is, held everywhere, but heated.
        s.displacement.assign(mesh_.nodes.size(), {});
        double energy = 0;
        const auto held = solid_internal_forces(mesh_, laws_, s, energy);
        for (std::size_t d = 0; d < held.size(); ++d) forces[c][d] -= held[d];
    }
    group.displacement = std::make_unique<FieldSystem>(problem, forces, study_.solver, many_unknowns_in_space);
    FieldSystem& system = *group.displacement;
    for (std::size_t c = 0; c < cases.size(); ++c) {
        SolutionIn<3>& s = out[c];
        std::vector<double> guess;
        if (c < start.size())
            for (const Vec3& u : start[c].displacement) guess.insert(guess.end(), u.c.begin(), u.c.end());
        const auto v = system.solve(c, guess);
        const double flow_error = s.balance.relative_error;
        std::vector<SupportReaction> flows;
        flows.swap(s.reactions);
        s.unknowns += system.unknowns();
        s.solver = system.report();
        s.displacement = vectors_at<3>(v, mesh_.nodes.size());
        const auto internal = solid_internal_forces(mesh_, laws_, s, s.strain_energy);
        auto with_joints = internal;
        s.strain_energy += add_joints(problem.sourced, v, with_joints);
        // In a heated part that is free the forces are small beside those that would hold its expansion.
        double thermal = 0;
        for (std::size_t d = 0; d < forces[c].size(); ++d) thermal += std::fabs(forces[c][d] - loads.force[c][d]);
        check_residual(problem.constraints, with_joints, loads.force[c],
                       thermal + sum_of_magnitudes(with_joints) + sum_of_magnitudes(loads.force[c]), s.solver);
        const auto totals_of_flows = s.loads;
        find_solid_reactions(problem, mesh_, study_, v, internal, loads.force[c], thermal, s);
        for (std::size_t k = 0; k < flows.size(); ++k) s.reactions[k].flow = flows[k].flow;
        s.balance.relative_error = std::max(s.balance.relative_error, flow_error);
        s.loads = std::move(loads.totals[c]);
        s.loads.insert(s.loads.end(), totals_of_flows.begin(), totals_of_flows.end());
    }
}

std::vector<SolutionIn<3>> SolidSolver::solve(const std::vector<SolidStart>& start) {
    std::vector<SolutionIn<3>> out;
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

SolutionIn<3> SolidSolver::dual_displacement(const std::string& load_case, const std::vector<double>& force,
                                             const std::vector<double>& lift) {
    Group& group = group_of(load_case);
    SolutionIn<3> s;
    s.load_case = load_case;
    s.stiffness_factor = group.stiffness_factor;
    s.displacement = vectors_at<3>(lifted(group.displacement->respond(force), lift), mesh_.nodes.size());
    return s;
}

SolutionIn<3> SolidSolver::dual_potential(const std::string& load_case, const std::vector<double>& flow,
                                          const std::vector<double>& lift) {
    Group& group = group_of(load_case);
    SolutionIn<3> s;
    s.load_case = load_case;
    s.conductivity_factor = group.conductivity_factor;
    s.potential = lifted(group.potential->respond(flow), lift);
    return s;
}

std::vector<SolutionIn<3>> solve_solid(const SolidMesh& mesh, const Study& study, const SolidLaws& laws,
                                       const std::vector<SolidStart>& start) {
    return SolidSolver(mesh, study, laws, false).solve(start);
}

}  // namespace dotsift
