#include "solve/material/solid_law.hpp"

#include <algorithm>
#include <cmath>

#include "base/dense.hpp"

namespace dotsift {

namespace {

/// The material's three axes.
std::array<Vec3, 3> axes_of(const MaterialSpec& m) {
    if (!m.axes) {
        const double c = std::cos(m.angle), s = std::sin(m.angle);
        return {{{{c, s, 0}}, {{-s, c, 0}}, {{0, 0, 1}}}};
    }
    const Vec3 first = (*m.axes)[0] / norm((*m.axes)[0]), square = cross(first, (*m.axes)[1]),
               third = square / norm(square);
    return {first, cross(third, first), third};
}

/// Strain components along x, y and z of the strain whose component along the material's axes is 1, one a column; the
/// transpose of how stresses turn the other way.
Eigen::MatrixXd strains_of(const std::array<Vec3, 3>& axes) {
    // xx, yy, xy, zz, yz, zx as pairs of axes.
    constexpr std::array<std::array<std::size_t, 2>, 6> pairs{{{0, 0}, {1, 1}, {0, 1}, {2, 2}, {1, 2}, {2, 0}}};
    Eigen::MatrixXd t(6, 6);
    for (int column = 0; column < 6; ++column) {
        const auto [i, j] = pairs[static_cast<std::size_t>(column)];
        std::array<Vec3, 3> gradients;  // symmetric ones, so that a shear of 1 is the sum of both halves
        for (std::size_t a = 0; a < 3; ++a)
            for (std::size_t b = 0; b < 3; ++b)
                gradients[a][b] = 0.5 * (axes[i][a] * axes[j][b] + axes[j][a] * axes[i][b]);
        const Strain3 strain = strain_of<3>(gradients);
        for (int row = 0; row < 6; ++row) t(row, column) = strain[static_cast<std::size_t>(row)];
    }
    return t;
}

void set_orthotropic(const MaterialSpec& m, ElasticLawIn<3>& law) {
    const Orthotropy& o = *m.orthotropy;
    Eigen::MatrixXd c = Eigen::MatrixXd::Zero(6, 6);
    c(0, 0) = 1 / o.moduli[0];
    c(1, 1) = 1 / o.moduli[1];
    c(3, 3) = 1 / o.moduli[2];
    c(2, 2) = 1 / o.shears[0];
    c(4, 4) = 1 / o.shears[1];
    c(5, 5) = 1 / o.shears[2];
    c(0, 1) = c(1, 0) = -o.ratios[0] / o.moduli[0];
    c(1, 3) = c(3, 1) = -o.ratios[1] / o.moduli[1];
    c(0, 3) = c(3, 0) = -o.ratios[2] / o.moduli[0];
    const Eigen::MatrixXd t = strains_of(axes_of(m)), turned = product(product(t, c), t.transpose()),
                          stiff = solve_positive(turned, Eigen::MatrixXd::Identity(6, 6));
    for (int i = 0; i < 6; ++i)
        for (int j = 0; j < 6; ++j) {
            const auto row = static_cast<std::size_t>(i), column = static_cast<std::size_t>(j);
            law.stiffness[row][column] = 0.5 * (stiff(i, j) + stiff(j, i));
            law.compliance[row][column] = 0.5 * (turned(i, j) + turned(j, i));
        }
}

void set_isotropic(const MaterialSpec& m, SolidLaw& law) {
    // In plane strain nothing is left out but the two shears along z, which meet no other component.
    const ElasticLaw plane = elastic_law(m, Plane::strain);
    ElasticLawIn<3>& elastic = law.elastic;
    for (std::size_t i = 0; i < 4; ++i)
        for (std::size_t j = 0; j < 4; ++j) {
            elastic.stiffness[i][j] = plane.stiffness[i][j];
            elastic.compliance[i][j] = plane.compliance[i][j];
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

/// The symmetric tensor with these values along the axes.
SquareMatrix<3> along(const std::array<Vec3, 3>& axes, const std::array<double, 3>& value) {
    SquareMatrix<3> out{};
    for (std::size_t k = 0; k < 3; ++k)
        for (std::size_t i = 0; i < 3; ++i)
            for (std::size_t j = 0; j < 3; ++j) out[i][j] += value[k] * axes[k][i] * axes[k][j];
    return out;
}

}  // namespace

SolidLaw solid_law(const MaterialSpec& m) {
    SolidLaw law;
    law.density = m.density.value_or(0);
    law.of_temperature = m.modulus_of_temperature || m.conductivity_of_temperature;
    const auto axes = axes_of(m);
    if (m.elastic()) {
        if (m.orthotropy)
            set_orthotropic(m, law.elastic);
        else
            set_isotropic(m, law);
        const auto strain = along(axes, m.expansion);
        law.elastic.expansion =
            Strain3{{strain[0][0], strain[1][1], 2 * strain[0][1], strain[2][2], 2 * strain[1][2], 2 * strain[2][0]}};
    }
    if (m.conductivity) {
        const auto& k = *m.conductivity;
        law.conduction.conductivity = along(axes, k);
        law.conduction.resistivity = along(axes, {1 / k[0], 1 / k[1], 1 / k[2]});
    }
    return law;
}

}  // namespace dotsift
