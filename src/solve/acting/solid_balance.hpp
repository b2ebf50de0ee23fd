#pragma once
// What a solution of a solid does to the degrees of freedom: inner forces and flows, reactions, and whether all
// balances.

#include "mesh/mesh.hpp"
#include "solve/field_problem.hpp"
#include "solve/material/solid_law.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// Forces with which the stressed elements pull at the nodes, and the elastic energy.
std::vector<double> solid_internal_forces(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                                          double& energy);
/// Flows that the elements take from the slots, and the dissipation.
std::vector<double> solid_internal_flows(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                                         double& dissipation);

/// Fills reactions and balance of forces; `thermal` is the sum of the magnitudes of the forces that would hold the
/// thermal expansion. A node's force is shared among its supports by the directions in which they hold it.
void find_solid_reactions(const FieldProblem& problem, const SolidMesh& mesh, const Study& study,
                          const std::vector<double>& value, const std::vector<double>& internal,
                          const std::vector<double>& applied, double thermal, SolutionIn<3>& out);
/// The same of flows.
void find_solid_flow_reactions(const FieldProblem& problem, const Study& study, const std::vector<double>& flow,
                               const std::vector<double>& applied, std::vector<LoadTotal>& totals, SolutionIn<3>& out);

}  // namespace dotsift
