#pragma once
// A quantity as a linear function of the solution: its value by the elements' own fields, and its load for the dual
// problem.

#include <optional>
#include <string>
#include <vector>

#include "quantities/evaluate.hpp"
#include "solve/field_problem.hpp"

namespace dotsift {

struct Functional {
    double value = 0;                     ///< by the elements' own stress and flux
    std::vector<double> on_displacement;  ///< derivative by every degree of freedom; empty: it depends on none
    /// By the potential at every slot; of a quantity of the displacement in a heated part, what the temperature adds to
    /// it while the displacement stays. Empty: it depends on none.
    std::vector<double> on_potential;
    /// Of a force at supports, and of the energy where displacements are prescribed: what those are, at every degree of
    /// freedom. The dual solution is then this less the response to the load, which is smooth, and its sign is turned.
    std::vector<double> lift;
    bool linearised = false;  ///< the quantity is none of the linear ones: its derivative at the solution
    /// Of the disc over which a value at a point, or a peak, is averaged; half the width of the band round a path, the
    /// width of that beside a boundary, over which a stress or flux is; 0: no such mean.
    double radius = 0;
};

/// Nothing if a quantity has no derivative, or none that can be used: one made of others by a formula, the
/// largest value on a path, forces at remote points, the energy of a heated or founded part, and any on
/// elements whose volume strain is projected. `at` is where a peak was found. Point values, peaks, and stresses and
/// fluxes along lines are weighted means over `radius` (0: a share of the part, or some elements): the error at a
/// single point or across a line has no dual problem that can be solved on a mesh.
std::optional<Functional> functional_of(const QuantitySpec& quantity, const Study& study, const Mesh& mesh,
                                        const Laws& laws, const CaseFields& fields, const std::optional<Vec2>& at,
                                        double radius = 0);

/// Of a solid: means and integrals over bodies and faces, values at points and peaks as means over balls, stresses and
/// fluxes on faces as means over a layer under them, forces at supports and the energy. `displacement`: the problem
/// that was solved.
std::optional<Functional> functional_of(const QuantitySpec& quantity, const Study& study, const SolidMesh& mesh,
                                        const SolidLaws& laws, const CaseFieldsIn<3>& fields,
                                        const FieldProblem& displacement, const std::optional<Vec3>& at,
                                        double radius = 0);

}  // namespace dotsift
