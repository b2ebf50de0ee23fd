#include "solve/material.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"

namespace dotsift {

namespace {

Tensor4 times(const Matrix4& m, const Tensor4& v) {
    Tensor4 out{};
    for (std::size_t i = 0; i < 4; ++i) out[i] = m[i][0] * v[0] + m[i][1] * v[1] + m[i][2] * v[2] + m[i][3] * v[3];
    return out;
}

/// Strain components (with gamma) along x and y, given along axes turned by the angle: the transpose of how stresses
/// turn the other way.
Eigen::Matrix4d strain_from_axes(double angle) {
    const double c = std::cos(angle), s = std::sin(angle);
    Eigen::Matrix4d t;
    t << c * c, s * s, -c * s, 0, s * s, c * c, c * s, 0, 2 * c * s, -2 * c * s, c * c - s * s, 0, 0, 0, 0, 1;
    return t;
}

}  // namespace

Tensor4 ElasticLaw::stress(const Tensor4& strain, double change) const {
    return times(stiffness, {strain[0] - expansion[0] * change, strain[1] - expansion[1] * change,
                             strain[2] - expansion[2] * change, strain[3] - expansion[3] * change});
}

Tensor4 ElasticLaw::strain(const Tensor4& stress, double change) const {
    Tensor4 e = times(compliance, stress);
    for (std::size_t i = 0; i < 4; ++i) e[i] += expansion[i] * change;
    return e;
}

double ElasticLaw::energy_norm2(const Tensor4& s) const {
    const Tensor4 e = times(compliance, s);
    return s[0] * e[0] + s[1] * e[1] + s[2] * e[2] + s[3] * e[3];
}

ElasticLaw elastic_law(const MaterialSpec& m, Plane plane) {
    Orthotropy o;
    if (m.orthotropy) {
        o = *m.orthotropy;
    } else {
        const double e = m.youngs_modulus, nu = m.poissons_ratio;
        o = {{e, e, e}, {nu, nu, nu}, e / (2 * (1 + nu))};
    }
    // Order xx, yy, xy, zz; nu_ij / E_i couples i and j.
    Eigen::Matrix4d c = Eigen::Matrix4d::Zero();
    c(0, 0) = 1 / o.moduli[0];
    c(1, 1) = 1 / o.moduli[1];
    c(3, 3) = 1 / o.moduli[2];
    c(2, 2) = 1 / o.shear;
    c(0, 1) = c(1, 0) = -o.ratios[0] / o.moduli[0];
    c(1, 3) = c(3, 1) = -o.ratios[1] / o.moduli[1];
    c(0, 3) = c(3, 0) = -o.ratios[2] / o.moduli[0];
    Eigen::Vector4d a(m.expansion[0], m.expansion[1], 0, m.expansion[2]);
    if (m.angle != 0) {
        const Eigen::Matrix4d t = strain_from_axes(m.angle);
        c = (t * c * t.transpose()).eval();
        a = (t * a).eval();
    }
    Eigen::Matrix4d d = Eigen::Matrix4d::Zero();
    if (plane == Plane::stress)
        d.topLeftCorner<3, 3>() = c.topLeftCorner<3, 3>().inverse();
    else
        d = c.inverse();
    ElasticLaw law;
    law.nearly_incompressible = m.nearly_incompressible() && plane != Plane::stress;
    for (int i = 0; i < 4; ++i) {
        const auto k = static_cast<std::size_t>(i);
        for (int j = 0; j < 4; ++j) {
            law.stiffness[k][static_cast<std::size_t>(j)] = 0.5 * (d(i, j) + d(j, i));
            law.compliance[k][static_cast<std::size_t>(j)] = 0.5 * (c(i, j) + c(j, i));
        }
        law.expansion[k] = a[i];
    }
    return law;
}

Vec2 ConductionLaw::flux(const Vec2& g) const {
    return {{-(conductivity[0][0] * g[0] + conductivity[0][1] * g[1]),
             -(conductivity[1][0] * g[0] + conductivity[1][1] * g[1])}};
}

double ConductionLaw::energy_norm2(const Vec2& q) const {
    return q[0] * (resistivity[0][0] * q[0] + resistivity[0][1] * q[1]) +
           q[1] * (resistivity[1][0] * q[0] + resistivity[1][1] * q[1]);
}

ConductionLaw conduction_law(const MaterialSpec& m) {
    ConductionLaw law;
    if (!m.conductivity) return law;
    const double k1 = (*m.conductivity)[0], k2 = (*m.conductivity)[1], c = std::cos(m.angle), s = std::sin(m.angle);
    const auto along = [&](double a, double b) {
        return std::array<std::array<double, 2>, 2>{
            {{a * c * c + b * s * s, (a - b) * c * s}, {(a - b) * c * s, a * s * s + b * c * c}}};
    };
    law.conductivity = along(k1, k2);
    law.resistivity = along(1 / k1, 1 / k2);
    return law;
}

double Laws::depth(std::int32_t region, const Vec2& position) const {
    if (axisymmetric()) return 2 * std::numbers::pi * position[0];
    const RegionLaw& law = of(region);
    return law.thickness_field ? (*law.thickness_field)(position) : law.thickness;
}

Vec2 Laws::depth_slope(std::int32_t region, const Vec2& p, double size) const {
    if (axisymmetric()) return {{1 / p[0], 0}};
    const auto& field = of(region).thickness_field;
    if (!field) return {};
    constexpr double step_share = 1e-3;  // of the element: its error is the square of this, and rounding far below
    const double step = step_share * size;
    const Vec2 x{{step, 0}}, y{{0, step}};
    return Vec2{{(*field)(p + x) - (*field)(p - x), (*field)(p + y) - (*field)(p - y)}} / (2 * step * (*field)(p));
}

Laws laws_of(const Study& study, const std::vector<std::string>& region_names) {
    Laws laws;
    laws.plane = study.plane;
    for (const auto& region : region_names) {
        const MaterialSpec* material = material_of(study, region);
        if (!material)
            throw InputError("the region \"" + region + "\" has no material", {}, "name it in the on of a material");
        RegionLaw law;
        if (study.elastic()) law.elastic = elastic_law(*material, study.plane);
        law.conduction = conduction_law(*material);
        const Formula& thickness = study.thickness_in(region);
        if (thickness.constant)
            law.thickness = *thickness.constant;
        else
            law.thickness_field = std::make_shared<const PositiveField>(thickness, study.path.string(), "thickness");
        law.density = material->density.value_or(0);
        law.of_temperature = (study.elastic() && material->modulus_of_temperature) ||
                             (study.conducts() && material->conductivity_of_temperature);
        laws.regions.push_back(law);
    }
    return laws;
}

double von_mises(const Tensor4& s) {
    const double a = s[0] - s[1], b = s[1] - s[3], c = s[3] - s[0];
    return std::sqrt(0.5 * (a * a + b * b + c * c) + 3 * s[2] * s[2]);
}

std::array<double, 2> principal(const Tensor4& s) {
    const double mean = 0.5 * (s[0] + s[1]), radius = std::hypot(0.5 * (s[0] - s[1]), s[2]);
    return {mean + radius, mean - radius};
}

double max_shear(const Tensor4& s) {
    const auto p = principal(s);
    return 0.5 * (std::max(p[0], s[3]) - std::min(p[1], s[3]));
}

Tensor4 turned(const Tensor4& t, double angle) {
    const double c = std::cos(angle), s = std::sin(angle);
    return {c * c * t[0] + s * s * t[1] + 2 * c * s * t[2], s * s * t[0] + c * c * t[1] - 2 * c * s * t[2],
            c * s * (t[1] - t[0]) + (c * c - s * s) * t[2], t[3]};
}

}  // namespace dotsift
