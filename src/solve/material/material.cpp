#include "solve/material/material.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.hpp"

namespace dotsift {

namespace {

template <class Out, class Matrix, class In>
Out times(const Matrix& m, const In& v) {
    Out out{};
    for (std::size_t i = 0; i < m.size(); ++i) out[i] = contraction(m[i], v);
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

template <int D>
StressIn<D> ElasticLawIn<D>::stress(const StrainIn<D>& strain, double change) const {
    StrainIn<D> elastic = strain;
    for (std::size_t c = 0; c < elastic.size(); ++c) elastic[c] -= expansion[c] * change;
    return times<StressIn<D>>(stiffness, elastic);
}

template <int D>
StrainIn<D> ElasticLawIn<D>::strain(const StressIn<D>& stress, double change) const {
    auto e = times<StrainIn<D>>(compliance, stress);
    for (std::size_t c = 0; c < e.size(); ++c) e[c] += expansion[c] * change;
    return e;
}

template <int D>
double ElasticLawIn<D>::energy_norm2(const StressIn<D>& s) const {
    return contraction(s, times<StrainIn<D>>(compliance, s));
}

template struct ElasticLawIn<2>;
template struct ElasticLawIn<3>;

ElasticLaw elastic_law(const MaterialSpec& m, Plane plane) {
    Orthotropy o;
    if (m.orthotropy) {
        o = *m.orthotropy;
    } else {
        const double e = m.youngs_modulus, nu = m.poissons_ratio;
        o = {{e, e, e}, {nu, nu, nu}, {e / (2 * (1 + nu))}};
    }
    // Order xx, yy, xy, zz; nu_ij / E_i couples i and j.
    Eigen::Matrix4d c = Eigen::Matrix4d::Zero();
    c(0, 0) = 1 / o.moduli[0];
    c(1, 1) = 1 / o.moduli[1];
    c(3, 3) = 1 / o.moduli[2];
    c(2, 2) = 1 / o.shears[0];
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

template <int D>
Vec<D> ConductionLawIn<D>::flux(const Vec<D>& g) const {
    return -times<Vec<D>>(conductivity, g);
}

template <int D>
double ConductionLawIn<D>::energy_norm2(const Vec<D>& q) const {
    return contraction(q, times<Vec<D>>(resistivity, q));
}

template struct ConductionLawIn<2>;
template struct ConductionLawIn<3>;

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

double LawsIn<2>::depth(std::int32_t region, const Vec2& position) const {
    if (axisymmetric()) return 2 * std::numbers::pi * position[0];
    const RegionLaw& law = of(region);
    return law.thickness_field ? (*law.thickness_field)(position) : law.thickness;
}

Vec2 LawsIn<2>::depth_slope(std::int32_t region, const Vec2& p, double size) const {
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

}  // namespace dotsift
