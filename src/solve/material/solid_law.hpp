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

/// Isotropic, or conducting differently along axes that are turned about z, along which it conducts as along the
/// second; it expands along all three. Throws InputError for orthotropic moduli, of which the plane names one shear
/// modulus only.
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
