#pragma once
// Material laws in space. Those of the plane states (material.hpp) are reductions of them.

#include <vector>

#include "base/vec.hpp"
#include "solve/material/material.hpp"

namespace dotsift {

struct SolidLaw : RegionLawIn<3> {
    bool isotropic = false;  ///< the same along all axes: then by Lame's two constants alone
    double lambda = 0, mu = 0;
};

/// Isotropic, or with constants of its own along three axes: those that the material names, or turned about z by its
/// angle. Lekhnitskii 1963, Theory of Elasticity of an Anisotropic Elastic Body, art. 3.
SolidLaw solid_law(const MaterialSpec& material);

/// The laws of each region of a mesh of solids. A volume is its own depth.
template <>
struct LawsIn<3> {
    std::vector<SolidLaw> regions;

    [[nodiscard]] const SolidLaw& of(std::int32_t region) const { return regions[static_cast<std::size_t>(region)]; }
    [[nodiscard]] static double depth(std::int32_t, const Vec3&) { return 1; }
    [[nodiscard]] static bool flat(std::int32_t) { return true; }
    [[nodiscard]] bool even(std::int32_t region) const { return !of(region).of_temperature; }
    [[nodiscard]] static bool axisymmetric() { return false; }
};
using SolidLaws = LawsIn<3>;

}  // namespace dotsift
