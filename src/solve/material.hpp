#pragma once
// Material laws: strain to stress.

#include <array>
#include <string>
#include <vector>

#include "study/study.hpp"

namespace dotsift {

/// Plane components xx, yy, xy; the shear strain is the engineering one (gamma).
using Plane3 = std::array<double, 3>;

/// Linear elasticity in the plane.
struct PlaneLaw {
    std::array<std::array<double, 3>, 3> stiffness{};   ///< stress = stiffness * strain
    std::array<std::array<double, 3>, 3> compliance{};  ///< its inverse
    double out_of_plane = 0;  ///< szz = out_of_plane * (sxx + syy): nu in plane strain, 0 in plane stress

    [[nodiscard]] Plane3 stress(const Plane3& strain) const;
    /// stress . compliance . stress
    [[nodiscard]] double energy_norm2(const Plane3& stress) const;
};

/// Isotropic law; Timoshenko & Goodier 1970, Theory of Elasticity, art. 16.
PlaneLaw plane_law(const MaterialSpec& material, Plane plane);

/// The law of each region of a mesh, by its index.
using RegionLaws = std::vector<PlaneLaw>;

/// Materials are found by the names of the regions; one without names has all that no other names.
RegionLaws region_laws(const Study& study, const std::vector<std::string>& region_names);

double von_mises(const Plane3& stress, const PlaneLaw& law);
/// Larger and smaller principal stress in the plane.
std::array<double, 2> principal(const Plane3& stress);

}  // namespace dotsift
