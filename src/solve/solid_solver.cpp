#include "solve/solid_solver.hpp"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.hpp"
#include "solve/acting/balance.hpp"
#include "solve/acting/solid_balance.hpp"
#include "solve/acting/solid_loads.hpp"
#include "solve/acting/solid_supports.hpp"
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

void solve_potential(const SolidMesh& mesh, const Study& study, const SolidLaws& laws,
                     const std::vector<CaseSpec>& cases, const std::vector<SolidStart>& start,
                     std::vector<SolutionIn<3>>& out) {
    const FieldProblem problem = solid_potential(
        mesh, laws, [&](const SolidMesh& on) { return solid_potential_rows(on, study, cases); }, cases.size(),
        [&](const ConstraintRow& row, const ConstraintRow& earlier) {
            tell_contradiction(study, mesh, row, earlier, 1);
        });
    SolidLoads loads = solid_flows(mesh, study, problem.layout, cases);
    FieldSystem system(problem, loads.force, study.solver, many_unknowns_in_space);
    for (std::size_t c = 0; c < cases.size(); ++c) {
        SolutionIn<3>& s = out[c];
        s.potential = system.solve(c, c < start.size() ? start[c].potential : std::vector<double>());
        s.unknowns += system.unknowns();
        s.solver = system.report();
        const auto flow = solid_internal_flows(mesh, laws, s, s.dissipation);
        check_residual(problem.constraints, flow, loads.force[c],
                       sum_of_magnitudes(flow) + sum_of_magnitudes(loads.force[c]), s.solver);
        find_solid_flow_reactions(problem, study, flow, loads.force[c], s);
        s.loads = std::move(loads.totals[c]);
    }
}

void solve_displacement(const SolidMesh& mesh, const Study& study, const SolidLaws& laws,
                        const std::vector<CaseSpec>& cases, const std::vector<SolidStart>& start,
                        std::vector<SolutionIn<3>>& out) {
    const FieldProblem problem = solid_displacement(
        mesh, laws, [&](const SolidMesh& on) { return solid_displacement_rows(on, study, cases); }, cases.size(),
        [&](const ConstraintRow& row, const ConstraintRow& earlier) {
            tell_contradiction(study, mesh, row, earlier, 3);
        });
    SolidLoads loads = solid_forces(mesh, study, problem.layout, cases);
    auto forces = loads.force;
    for (std::size_t c = 0; c < cases.size(); ++c) {
        SolutionIn<3>& s = out[c];
        s.temperature_change = thermal_strain(mesh, study, cases[c], s.potential).change;
        if (s.temperature_change.empty()) continue;
        // Stresses of the part as it is, held everywhere, but heated.
        s.displacement.assign(mesh.nodes.size(), {});
        double energy = 0;
        const auto held = solid_internal_forces(mesh, laws, s, energy);
        for (std::size_t d = 0; d < held.size(); ++d) forces[c][d] -= held[d];
    }
    FieldSystem system(problem, forces, study.solver, many_unknowns_in_space);
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
        s.displacement.resize(mesh.nodes.size());
        for (std::size_t n = 0; n < mesh.nodes.size(); ++n)
            s.displacement[n] = {{v[3 * n], v[3 * n + 1], v[3 * n + 2]}};
        const auto internal = solid_internal_forces(mesh, laws, s, s.strain_energy);
        // In a heated part that is free the forces are small beside those that would hold its expansion.
        double thermal = 0;
        for (std::size_t d = 0; d < forces[c].size(); ++d) thermal += std::fabs(forces[c][d] - loads.force[c][d]);
        check_residual(problem.constraints, internal, loads.force[c],
                       thermal + sum_of_magnitudes(internal) + sum_of_magnitudes(loads.force[c]), s.solver);
        const auto totals_of_flows = s.loads;
        find_solid_reactions(problem, mesh, study, internal, loads.force[c], thermal, s);
        for (std::size_t k = 0; k < flows.size(); ++k) s.reactions[k].flow = flows[k].flow;
        s.balance.relative_error = std::max(s.balance.relative_error, flow_error);
        s.loads = std::move(loads.totals[c]);
        s.loads.insert(s.loads.end(), totals_of_flows.begin(), totals_of_flows.end());
    }
}

}  // namespace

SolidLaws solid_laws(const Study& study, const std::vector<std::string>& regions) {
    SolidLaws laws;
    for (const auto& region : regions) laws.regions.push_back(solid_law(*material_of(study, region)));
    return laws;
}

std::vector<SolutionIn<3>> solve_solid(const SolidMesh& mesh, const Study& study, const SolidLaws& laws,
                                       const std::vector<SolidStart>& start) {
    const auto cases = study.cases_to_solve();
    std::vector<SolutionIn<3>> out(cases.size());
    for (std::size_t c = 0; c < cases.size(); ++c) out[c].load_case = cases[c].name;
    if (study.conducts()) solve_potential(mesh, study, laws, cases, start, out);
    if (study.elastic()) solve_displacement(mesh, study, laws, cases, start, out);
    return out;
}

}  // namespace dotsift
