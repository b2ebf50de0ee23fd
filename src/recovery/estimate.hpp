#pragma once
// How far the elements' stress is from the recovered one, and, where it is known, from the exact one.

#include <vector>

#include "mesh/mesh.hpp"
#include "recovery/error_map.hpp"
#include "recovery/fit/singular_fit.hpp"
#include "recovery/recover.hpp"
#include "recovery/solid_recovery.hpp"
#include "solve/solution.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Energy norm of (recovered - element stress); Zienkiewicz & Zhu 1987, Int. J. Numer. Meth. Eng. 24. Round singular
/// points the fits take the place of the recovered field.
ErrorMap estimate_error(const Mesh& mesh, const Laws& laws, const Solution& solution, const RecoveredStress& recovered,
                        const std::vector<SingularFit>& singular = {});
/// The same of the flux, in the norm of the dissipation.
ErrorMap estimate_flux_error(const Mesh& mesh, const Laws& laws, const Solution& solution,
                             const RecoveredFlux& recovered, const std::vector<SingularFit>& singular = {});
/// Of solids.
ErrorMap estimate_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                        const RecoveredStressIn<3>& recovered);
ErrorMap estimate_flux_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                             const RecoveredFluxIn<3>& recovered);

/// The true error where the stress is known in closed form: integrated over each element with subdivision towards
/// places where the exact field changes fast, to a relative accuracy of about 1e-4 of each element's share.
struct TrueError {
    double error2 = 0;                     ///< squared energy norm of the error
    double energy2 = 0;                    ///< squared energy norm of the exact solution
    std::vector<double> element_error2{};  ///< of each element
    [[nodiscard]] double relative() const;
};
/// The stress zz follows from the others as the plane demands (not known in an axisymmetric body: see ExactStress).
TrueError true_error(const Mesh& mesh, const Laws& laws, const Solution& solution, const ExactStress& exact,
                     const std::string& file);
/// Of solids, by a rule of degree 6 in each element: the exact field has to be smooth.
TrueError true_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                     const ExactStress& exact, const std::string& file);

}  // namespace dotsift
