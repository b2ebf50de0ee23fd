#include "solve/solid_law.hpp"

#include "base/errors.hpp"
#include "solve/material.hpp"

namespace dotsift {

Tensor6 SolidLaw::stress(const Tensor6& strain) const {
    Tensor6 s{};
    for (std::size_t i = 0; i < 6; ++i)
        for (std::size_t j = 0; j < 6; ++j) s[i] += stiffness[i][j] * strain[j];
    return s;
}

Vec3 SolidLaw::flux(const Vec3& g) const {
    Vec3 q;
    for (std::size_t i = 0; i < 3; ++i) q[i] = -dot(Vec3{conductivity[i]}, g);
    return q;
}

SolidLaw solid_law(const MaterialSpec& m) {
    if (m.orthotropy)
        throw InputError("material." + m.name + ": solids need three shear moduli of an orthotropic material", {},
                         "give an isotropic material");
    SolidLaw law;
    law.density = m.density.value_or(0);
    if (m.elastic()) {
        // In plane strain nothing is left out but the two shears along z, which meet no other component.
        const Matrix4 plane = elastic_law(m, Plane::strain).stiffness;
        for (std::size_t i = 0; i < 4; ++i)
            for (std::size_t j = 0; j < 4; ++j) law.stiffness[i][j] = plane[i][j];
        law.isotropic = true;
        law.mu = m.youngs_modulus / (2 * (1 + m.poissons_ratio));
        law.lambda = plane[0][1];
        law.stiffness[4][4] = law.stiffness[5][5] = law.mu;
    }
    if (m.conductivity) {
        const auto plane = conduction_law(m).conductivity;
        for (std::size_t i = 0; i < 2; ++i)
            for (std::size_t j = 0; j < 2; ++j) law.conductivity[i][j] = plane[i][j];
        law.conductivity[2][2] = (*m.conductivity)[1];
    }
    return law;
}

}  // namespace dotsift
