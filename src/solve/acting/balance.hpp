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
