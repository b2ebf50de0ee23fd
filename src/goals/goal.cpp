#include "goals/goal.hpp"

#include <cmath>

#include "goals/functional.hpp"
#include "goals/gap_products.hpp"
#include "recovery/estimate.hpp"
#include "recovery/recover.hpp"

namespace dotsift {

namespace {

// Half the width of the interval about the corrected value, over the correction: where places are singular the estimate
// sees as little as a third of the error (docs/verification.md).
constexpr double interval_share = 2;

/// Where the dual problem's load acts; of a solid recovery does not ask.
RecoveredStress recovered_dual(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& dual,
                               const std::vector<char>& marked) {
    return recover_dual_stress(mesh, study, laws, dual, marked);
}
RecoveredStressIn<3> recovered_dual(const SolidMesh& mesh, const Study&, const SolidLaws& laws,
                                    const SolutionIn<3>& dual, const std::vector<char>&) {
    return recover_stress(mesh, laws, dual);
}
RecoveredFlux recovered_dual_flux(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& dual,
                                  const std::vector<char>& marked) {
    return recover_dual_flux(mesh, study, laws, dual, marked);
}
RecoveredFluxIn<3> recovered_dual_flux(const SolidMesh& mesh, const Study&, const SolidLaws& laws,
                                       const SolutionIn<3>& dual, const std::vector<char>&) {
    return recover_flux(mesh, laws, dual);
}

/// Where the dual problem's load acts; with a lift nothing but supports does.
template <int D>
std::vector<char> loaded_nodes(const MeshIn<D>& mesh, const Functional& f) {
    std::vector<char> marked(mesh.nodes.size(), 0);
    if (!f.lift.empty()) return marked;
    for (std::size_t n = 0; n < mesh.nodes.size() && !f.on_displacement.empty(); ++n)
        marked[n] = vector_at<D>(f.on_displacement, n) != Vec<D>{};
    for (std::size_t s = 0; s < f.on_potential.size(); ++s)
        if (f.on_potential[s] != 0) marked[static_cast<std::size_t>(mesh.node_of_slot[s])] = 1;
    return marked;
}

/// What the temperature's error brings, for each element: the stress of the dual displacement, times the expansion, is
/// the load of a dual temperature.
template <int D, class Solver>
std::vector<double> temperature_terms(const Study& study, const MeshIn<D>& mesh, Solver& solver,
                                      const CaseFieldsIn<D>& fields, const Functional& f, const SolutionIn<D>& dual) {
    const LawsIn<D>& laws = solver.laws();
    std::vector<double> flow = f.on_potential;
    const double sign = f.lift.empty() ? 1 : -1;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto positions = mesh.positions(e);
        const auto slots = mesh.slots_of(e);
        const auto& law = laws.of(mesh.region[e]).elastic;
        for (const auto& q : tabulated<D>(mesh.kinds[e], quadrature<D>(mesh.kinds[e], 4))) {
            const auto p = evaluate<D>(mesh.kinds[e], positions, q);
            const StressIn<D> stress = stress_at(mesh, laws, dual, e, p);
            double density = 0;
            for (std::size_t c = 0; c < tensor_components<D>; ++c) density += stress[c] * law.expansion[c];
            if (!fields.solution.temperature_slope.empty())
                density *= slot_value(mesh, fields.solution.temperature_slope, e, p);
            if (!fields.solution.stiffness_slope.empty()) {  // softer where it is hotter
                const double factor = stiffness_at(mesh, fields.solution, e, p);
                density -= slot_value(mesh, fields.solution.stiffness_slope, e, p) / (factor * factor) *
                           contraction(stress_at(mesh, laws, fields.solution, e, p), law.strain(stress));
            }
            const double w = sign * q.weight * p.jacobian * laws.depth(mesh.region[e], p.position) * density;
            for (std::size_t i = 0; i < slots.size(); ++i) flow[static_cast<std::size_t>(slots[i])] += w * p.n[i];
        }
    }
    const SolutionIn<D> dual_temperature = solver.dual_potential(fields.solution.load_case, flow);
    std::vector<char> marked(mesh.nodes.size(), 0);
    for (std::size_t s = 0; s < flow.size(); ++s)
        if (flow[s] != 0) marked[static_cast<std::size_t>(mesh.node_of_slot[s])] = 1;
    return flux_gap_products(mesh, laws, fields.solution, fields.flux, dual_temperature,
                             recovered_dual_flux(mesh, study, laws, dual_temperature, marked));
}

/// From the functional on.
template <int D, class Solver>
GoalEstimate estimate(const Functional& functional, bool of_energy, const Study& study, const MeshIn<D>& mesh,
                      Solver& solver, const CaseFieldsIn<D>& fields) {
    const LawsIn<D>& laws = solver.laws();
    GoalEstimate out;
    out.value = functional.value;
    out.radius = functional.radius;
    const auto marked = loaded_nodes(mesh, functional);
    std::vector<double> by_temperature;
    if (!functional.on_displacement.empty()) {
        const SolutionIn<D> dual =
            solver.dual_displacement(fields.solution.load_case, functional.on_displacement, functional.lift);
        out.element_error = stress_gap_products(mesh, laws, fields.solution, fields.stress, dual,
                                                recovered_dual(mesh, study, laws, dual, marked));
        if (!functional.on_potential.empty())
            by_temperature = temperature_terms(study, mesh, solver, fields, functional, dual);
    } else {
        const SolutionIn<D> dual =
            solver.dual_potential(fields.solution.load_case, functional.on_potential, functional.lift);
        out.element_error = flux_gap_products(mesh, laws, fields.solution, fields.flux, dual,
                                              recovered_dual_flux(mesh, study, laws, dual, marked));
    }
    // With a lift the dual solution is that of the opposite sign.
    if (!functional.lift.empty())
        for (double& x : out.element_error) x = -x;
    for (std::size_t e = 0; e < by_temperature.size(); ++e) out.element_error[e] += by_temperature[e];
    for (const double x : out.element_error) out.error += x;
    // The energy is quadratic: half the energy of the error comes on top.
    if (of_energy) out.error += 0.5 * estimate_error(mesh, laws, fields.solution, fields.stress).error2;
    out.half_width = interval_share * std::fabs(out.error);
    return out;
}

}  // namespace

std::optional<GoalEstimate> estimate_goal(const QuantitySpec& quantity, const QuantityValue& value, const Study& study,
                                          const Mesh& mesh, StudySolver& solver, const CaseFields& fields) {
    std::optional<Vec2> at;
    if (value.position) at = in_plane(*value.position);
    const auto functional = functional_of(quantity, study, mesh, solver.laws(), fields, at);
    if (!functional) return {};
    return estimate<2>(*functional, quantity.field == Field::strain_energy, study, mesh, solver, fields);
}

std::optional<GoalEstimate> estimate_goal(const QuantitySpec& quantity, const QuantityValue& value, const Study& study,
                                          const SolidMesh& mesh, SolidSolver& solver, const CaseFieldsIn<3>& fields) {
    const auto functional = functional_of(quantity, study, mesh, solver.laws(), fields,
                                          solver.displacement_problem(fields.solution.load_case), value.position);
    if (!functional) return {};
    return estimate<3>(*functional, quantity.field == Field::strain_energy, study, mesh, solver, fields);
}

}  // namespace dotsift
