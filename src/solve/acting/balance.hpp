#pragma once
// What a solution does to the degrees of freedom: inner forces and flows, reactions, and whether all balances.

#include <vector>

#include "solve/field_problem.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// Forces with which the stressed elements pull at the degrees of freedom, and the elastic energy.
std::vector<double> internal_forces(const PlaneProblem& problem, const Laws& laws, const Solution& solution,
                                    double& energy);
/// Flows that the elements take from the slots, and the dissipation.
std::vector<double> internal_flows(const Mesh& mesh, const Laws& laws, const Solution& solution, double& dissipation);
/// The forces that a joint takes from its degrees of freedom: act(dof, force).
template <class Act>
void each_joint_force(const Joint& joint, const std::vector<double>& value, Act act) {
    const std::size_t n = joint.dofs.size();
    for (std::size_t a = 0; a < n; ++a) {
        double sum = 0;
        for (std::size_t b = 0; b < n; ++b)
            sum += joint.matrix[a * n + b] * value[static_cast<std::size_t>(joint.dofs[b])];
        act(joint.dofs[a], sum);
    }
}
/// What the surroundings take back belongs to the load: off its total, and off the reactions.
template <int D>
void take_back(const FieldProblem& problem, std::vector<LoadTotal>& totals, SolvedFields<D>& out) {
    for (const auto& j : problem.sourced) {
        double back = 0;
        each_joint_force(j.joint, out.potential, [&](std::int32_t, double f) { back += f; });
        out.balance.reaction_flow -= back;
        if (j.load >= 0) totals[static_cast<std::size_t>(j.load)].flow -= back;
    }
}
/// What joints do to the degrees of freedom, added to `force`; and their energy.
double add_joints(const std::vector<SourcedJoint>& joints, const std::vector<double>& value,
                  std::vector<double>& force);

/// Throws SolveError if forces are left where nothing holds: more than a share of `magnitude`, the sum of all.
void check_residual(const Constraints& constraints, const std::vector<double>& internal,
                    const std::vector<double>& applied, double magnitude, const SolverReport& solver);

/// Fills reactions and balance of forces. `internal` is without joints; `thermal` the sum of the magnitudes of the
/// forces that would hold the thermal expansion.
void find_reactions(const PlaneProblem& problem, const Study& study, const std::vector<double>& value,
                    const std::vector<double>& internal, const std::vector<double>& applied, double thermal,
                    Solution& out);
/// Fills reactions and balance of flows, and takes what the surroundings take back from the loads' totals. `flow` is
/// with joints.
void find_flow_reactions(const PlaneProblem& problem, const Study& study, const std::vector<double>& flow,
                         const std::vector<double>& applied, std::vector<LoadTotal>& totals, Solution& out);

/// Forces below this are rounding, where no load acts.
double rounding_of_forces(const SolverReport& solver, const std::vector<double>& applied);

double sum_of_magnitudes(const std::vector<double>& values);

}  // namespace dotsift
