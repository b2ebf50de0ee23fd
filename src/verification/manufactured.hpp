#pragma once
// Problems whose solution was chosen first: the loads are what makes it the solution (Roache 2002, J. Fluids Eng. 124).

#include <string>

#include "study/study.hpp"

namespace dotsift {

/// A study file's text, and what its solution is, as formulas.
struct Manufactured {
    std::string text;                ///< without shapes and elements, which are left to the user
    std::string ux, uy, potential;   ///< empty: not solved for
    std::string sxx, syy, sxy, szz;  ///< stress
    std::string qx, qy;              ///< flux
};

/// The shapes: a square beside the axis, or the same square of two regions, "one" and "two".
std::string one_square();
std::string two_rectangles();

/// Displacements that are exponentials of the place: given on two sides, tractions on the
/// others, a body force inside. The material is isotropic, or orthotropic
/// and turned; where it is nearly incompressible, the displacement keeps every volume.
enum class ManufacturedMaterial { isotropic, orthotropic, nearly_incompressible };
Manufactured manufactured_elasticity(Plane plane, ManufacturedMaterial material);

/// A potential that is an exponential of the place: given on two sides, flux and transfer on the others, sources
/// inside.
Manufactured manufactured_conduction(bool axisymmetric, bool orthotropic);

/// A linear displacement or potential, given all round: every element must show it exactly.
Manufactured linear_elasticity(Plane plane);
Manufactured linear_conduction(bool axisymmetric);

}  // namespace dotsift
