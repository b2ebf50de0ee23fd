#pragma once
// Mesh of a solid and study -> the solution of every load case.

#include <memory>
#include <span>
#include <vector>

#include "solve/material/solid_law.hpp"
#include "solve/solution.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The laws of each region, by the study's materials.
SolidLaws solid_laws(const Study& study, const std::vector<std::string>& regions);

/// A guess of a load case's solution in space: at nodes and at slots, or empty.
struct SolidStart {
    std::vector<Vec3> displacement;
    std::vector<double> potential;
};

/// Solves for the potential, for the displacement, or for both one after the other, all cases with one factorisation
/// each; with loads, reactions and balance. Throws SolveError and InputError as solve_cases does in the plane.
std::vector<SolutionIn<3>> solve_solid(const SolidMesh& mesh, const Study& study, const SolidLaws& laws,
                                       const std::vector<SolidStart>& start = {});

}  // namespace dotsift
