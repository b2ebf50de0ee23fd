#pragma once
// The error of a single quantity, by its dual problem.

#include <optional>
#include <vector>

#include "quantities/evaluate.hpp"
#include "solve/solid_solver.hpp"
#include "solve/solve.hpp"

namespace dotsift {

struct GoalEstimate {
    double value = 0;       ///< of the quantity by the elements' own fields; of a point or peak, the mean over a disc
    double error = 0;       ///< estimated truth less value
    double half_width = 0;  ///< of the interval about value + error
    double radius = 0;      ///< of the disc; 0: none
    std::vector<double> element_error;  ///< what each element contributes to `error`
    [[nodiscard]] double corrected() const { return value + error; }
};

/// The error is the sum over the elements of the energy that the stress error of the solution and that of the dual
/// solution have together (Babuska & Miller 1984, Int. J. Numer. Meth. Eng. 20; Prudhomme & Oden 1999, Comput. Methods
/// Appl. Mech. Eng. 176), both errors by recovery. `solver` has solved the study. Nothing where functional_of gives
/// nothing. In a study of heat and stress the error of the temperature is left out of stresses and displacements.
std::optional<GoalEstimate> estimate_goal(const QuantitySpec& quantity, const QuantityValue& value, const Study& study,
                                          const Mesh& mesh, StudySolver& solver, const CaseFields& fields);
std::optional<GoalEstimate> estimate_goal(const QuantitySpec& quantity, const QuantityValue& value, const Study& study,
                                          const SolidMesh& mesh, SolidSolver& solver, const CaseFieldsIn<3>& fields);

}  // namespace dotsift
