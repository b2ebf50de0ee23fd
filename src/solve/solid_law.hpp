#pragma once
// Material laws in space. Those of the plane states (material.hpp) are reductions of them.

#include "base/vec.hpp"
#include "solve/gradient_kernels.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Components xx, yy, xy, zz, yz, zx: the first four are those of a plane. Shear strains are the engineering ones.
using Tensor6 = std::array<double, 6>;
using Matrix6 = std::array<std::array<double, 6>, 6>;

struct SolidLaw {
    Matrix6 stiffness{};     ///< stress = stiffness * strain
    bool isotropic = false;  ///< the same along all axes: then by Lame's two constants alone
    double lambda = 0, mu = 0;
    SquareMatrix<3> conductivity{};
    double density = 0;

    [[nodiscard]] Tensor6 stress(const Tensor6& strain) const;
    [[nodiscard]] Vec3 flux(const Vec3& gradient) const;
};

/// Isotropic, or conducting differently along axes that are turned about z, along which it conducts as along the
/// second. Throws InputError for orthotropic moduli, of which the plane names one shear modulus only.
SolidLaw solid_law(const MaterialSpec& material);

}  // namespace dotsift
