#include "solve/material.hpp"

#include <cmath>

#include "base/errors.hpp"

namespace dotsift {

Plane3 PlaneLaw::stress(const Plane3& e) const {
    Plane3 s{};
    for (std::size_t i = 0; i < 3; ++i) s[i] = stiffness[i][0] * e[0] + stiffness[i][1] * e[1] + stiffness[i][2] * e[2];
    return s;
}

double PlaneLaw::energy_norm2(const Plane3& s) const {
    double sum = 0;
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j) sum += s[i] * compliance[i][j] * s[j];
    return sum;
}

PlaneLaw plane_law(const MaterialSpec& m, Plane plane) {
    PlaneLaw law;
    double e = m.youngs_modulus, nu = m.poissons_ratio;
    const double shear = e / (2 * (1 + nu));
    if (plane == Plane::strain) {
        law.out_of_plane = nu;
        e /= 1 - nu * nu;
        nu /= 1 - nu;
    }
    const double a = e / (1 - nu * nu);
    law.stiffness = {{{a, a * nu, 0}, {a * nu, a, 0}, {0, 0, shear}}};
    law.compliance = {{{1 / e, -nu / e, 0}, {-nu / e, 1 / e, 0}, {0, 0, 1 / shear}}};
    return law;
}

RegionLaws region_laws(const Study& study, const std::vector<std::string>& region_names) {
    RegionLaws laws;
    for (const auto& region : region_names) {
        const MaterialSpec* material = material_of(study, region);
        if (!material)
            throw InputError("the region \"" + region + "\" has no material", {}, "name it in the on of a material");
        laws.push_back(plane_law(*material, study.plane));
    }
    return laws;
}

double von_mises(const Plane3& s, const PlaneLaw& law) {
    const double z = law.out_of_plane * (s[0] + s[1]);
    const double a = s[0] - s[1], b = s[1] - z, c = z - s[0];
    return std::sqrt(0.5 * (a * a + b * b + c * c) + 3 * s[2] * s[2]);
}

std::array<double, 2> principal(const Plane3& s) {
    const double mean = 0.5 * (s[0] + s[1]), radius = std::hypot(0.5 * (s[0] - s[1]), s[2]);
    return {mean + radius, mean - radius};
}

}  // namespace dotsift
