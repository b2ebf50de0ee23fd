#include "solve/material/solid_law.hpp"

#include "base/errors.hpp"

namespace dotsift {

SolidLaw solid_law(const MaterialSpec& m) {
    if (m.orthotropy)
        throw InputError("material." + m.name + ": solids need three shear moduli of an orthotropic material", {},
                         "give an isotropic material");
    SolidLaw law;
    law.density = m.density.value_or(0);
    if (m.elastic()) {
        // In plane strain nothing is left out but the two shears along z, which meet no other component.
        const ElasticLaw plane = elastic_law(m, Plane::strain);
        ElasticLawIn<3>& elastic = law.elastic;
        for (std::size_t i = 0; i < 4; ++i) {
            for (std::size_t j = 0; j < 4; ++j) {
                elastic.stiffness[i][j] = plane.stiffness[i][j];
                elastic.compliance[i][j] = plane.compliance[i][j];
            }
            elastic.expansion[i] = plane.expansion[i];
        }
        law.isotropic = true;
        law.mu = m.youngs_modulus / (2 * (1 + m.poissons_ratio));
        law.lambda = plane.stiffness[0][1];
        for (const std::size_t c : {4, 5}) {
            elastic.stiffness[c][c] = law.mu;
            elastic.compliance[c][c] = 1 / law.mu;
        }
        elastic.nearly_incompressible = plane.nearly_incompressible;
    }
    if (m.conductivity) {
        const ConductionLaw plane = conduction_law(m);
        for (std::size_t i = 0; i < 2; ++i)
            for (std::size_t j = 0; j < 2; ++j) {
                law.conduction.conductivity[i][j] = plane.conductivity[i][j];
                law.conduction.resistivity[i][j] = plane.resistivity[i][j];
            }
        law.conduction.conductivity[2][2] = (*m.conductivity)[1];
        law.conduction.resistivity[2][2] = 1 / (*m.conductivity)[1];
    }
    return law;
}

}  // namespace dotsift
