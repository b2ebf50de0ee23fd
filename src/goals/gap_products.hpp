#pragma once
// What the errors of two solutions have together, element by element: in the plane and in space.

#include <vector>

#include "recovery/solid_recovery.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// The energy that the gaps between recovered and own stress of two solutions have together, of each element; of the
/// second one the dual problem of a quantity's linear functional, their sum is its error. `a` tells how stiff the
/// material is.
template <int D>
std::vector<double> stress_gap_products(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolutionIn<D>& a,
                                        const RecoveredStressIn<D>& of_a, const SolutionIn<D>& b,
                                        const RecoveredStressIn<D>& of_b);
/// The same of flux and dissipation.
template <int D>
std::vector<double> flux_gap_products(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolutionIn<D>& a,
                                      const RecoveredFluxIn<D>& of_a, const SolutionIn<D>& b,
                                      const RecoveredFluxIn<D>& of_b);

}  // namespace dotsift
