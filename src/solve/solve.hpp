#pragma once
// Mesh and study -> the solution of every load case.

#include <vector>

#include "solve/solution.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Solves for the potential, for the displacement, or for both one after the other, all cases with one factorisation
/// each. Throws SolveError and InputError (contradicting supports, formulas that give no number, singular systems).
///
///     std::vector<Solution> cases = solve_cases(mesh, study);
std::vector<Solution> solve_cases(const Mesh& mesh, const Study& study);

/// The first case, or the only one.
Solution solve_study(const Mesh& mesh, const Study& study);

}  // namespace dotsift
