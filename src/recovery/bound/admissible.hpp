#pragma once
// A stress or flux that is in balance with the loads, and the bound of the error that it gives.

#include <optional>
#include <string>

#include "mesh/mesh.hpp"
#include "recovery/estimate.hpp"
#include "solve/solution.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Why a study has no bound; empty if it has one. Balanced fields are made in plane stress and plane strain, without
/// elastic foundations, transfers, resistances, periodic pairs, remote points, forces at points and prescribed values
/// that change from place to place.
std::string why_no_bound(const Study& study, const Mesh& mesh, const Laws& laws);

/// The energy norm of (balanced field - element field), which is never below the error's (Prager & Synge 1947, Quart.
/// Appl. Math. 5). The balanced field is the solution of a mesh of equilibrium elements of polynomial stress in
/// triangles that are cut in three (Johnson & Mercier 1978, Numer. Math. 30; of any degree in hybrid form: de Almeida &
/// Maunder 2017, Equilibrium Finite Element Formulations, ch. 4): exactly in balance inside and over straight sides
/// with loads of the field's degree; of others, and on curved sides, their moments up to it are in balance. Nothing if
/// the system of that mesh is singular. Throws SolveError if it needs more memory than there is.
std::optional<ErrorMap> bound_stress_error(const Mesh& mesh, const Study& study, const Laws& laws,
                                           const Solution& solution);
std::optional<ErrorMap> bound_flux_error(const Mesh& mesh, const Study& study, const Laws& laws,
                                         const Solution& solution);

}  // namespace dotsift
