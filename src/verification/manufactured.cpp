#include "verification/manufactured.hpp"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <array>
#include <cmath>
#include <functional>

#include "mesh/elements/element.hpp"
#include "solve/material/material.hpp"

namespace dotsift {

namespace {

/// A sum of coefficients times fields: U, V, which stand in the study as variables, U/x, V/x, U/x^2, V/x^2, and a
/// linear function.
struct Combination {
    std::array<double, 9> c{};

    [[nodiscard]] std::string text() const {
        static constexpr std::array names{"U", "V", "U/x", "V/x", "U/x^2", "V/x^2", "1", "x", "y"};
        std::string out;
        for (std::size_t i = 0; i < c.size(); ++i)
            if (c[i] != 0) out += fmt::format("{}({:.17g})*{}", out.empty() ? "" : " + ", c[i], names[i]);
        return out.empty() ? "0" : out;
    }
    friend Combination operator+(Combination a, const Combination& b) {
        for (std::size_t i = 0; i < a.c.size(); ++i) a.c[i] += b.c[i];
        return a;
    }
    friend Combination operator*(double s, Combination a) {
        for (auto& v : a.c) v *= s;
        return a;
    }
    /// Divided by x; what has x^2 below already must be 0, and so must the linear function.
    [[nodiscard]] Combination over_x() const { return {{0, 0, c[0], c[1], c[2], c[3]}}; }
};

/// U = u exp(a x + b y), V = v exp(c x + d y)
struct Exponentials {
    double a = 0.7, b = -0.4, c = 0.3, d = 0.6, u = 0.01, v = 0.01;
};

Combination by_x(const Combination& f, const Exponentials& k) {
    const auto& [a, b, c, d, u, v] = k;
    return {{a * f.c[0], c * f.c[1], a * f.c[2], c * f.c[3], a * f.c[4] - f.c[2], c * f.c[5] - f.c[3], f.c[7]}};
}
Combination by_y(const Combination& f, const Exponentials& k) {
    const auto& [a, b, c, d, u, v] = k;
    return {{b * f.c[0], d * f.c[1], b * f.c[2], d * f.c[3], b * f.c[4], d * f.c[5], f.c[8]}};
}

const char* name_of(Plane plane) {
    constexpr std::array names{"stress", "strain", "generalised_strain", "axisymmetric"};
    return names[static_cast<std::size_t>(plane)];
}

std::string head(Plane plane) {
    return fmt::format("format = 1\n[part]\nplane = \"{}\"\n{}", name_of(plane),
                       plane == Plane::axisymmetric ? "" : "thickness = 0.5\n");
}

const std::string isotropic = "youngs_modulus = 1000\npoissons_ratio = 0.3\n";
const std::string wood =
    "moduli = [1200, 500, 300]\npoissons_ratios = [0.3, 0.25, 0.2]\nshear_modulus = 180\nangle = \"25 deg\"\n";

MaterialSpec material_of(bool orthotropic) {
    MaterialSpec m;
    if (orthotropic) {
        m.orthotropy = Orthotropy{{1200, 500, 300}, {0.3, 0.25, 0.2}, {180, 150, 120}};
        m.angle = 25 * 3.14159265358979323846 / 180;
        m.conductivity = {{3, 0.5, 0.5}};
    } else {
        m.youngs_modulus = 1000;
        m.poissons_ratio = 0.3;
        m.conductivity = {{2, 2, 2}};
    }
    return m;
}

std::string text_of(const Exponentials& k) {
    return fmt::format("U = \"{} * exp({} * x + {} * y)\"\nV = \"{} * exp({} * x + {} * y)\"\n", k.u, k.a, k.b, k.v,
                       k.c, k.d);
}

/// The linear strain zz with which ends that stay plane carry no force and no moments, on the square of one_square():
/// `stress` is what the displacements bring, `modulus` that of the strain zz.
Combination free_ends(const std::function<double(const Vec2&)>& stress, double modulus) {
    // Gauss-Legendre on subsquares, to rounding
    constexpr int parts = 8;
    Eigen::Matrix3d mass = Eigen::Matrix3d::Zero();
    Eigen::Vector3d right = Eigen::Vector3d::Zero();
    for (int i = 0; i < parts; ++i) {
        for (int j = 0; j < parts; ++j) {
            for (const auto& q : quadrature(ElementKind::quadrilateral9, 6)) {
                const Vec2 p{{0.5 + (i + q.xi[0]) / parts, (j + q.xi[1]) / parts}};
                const Eigen::Vector3d f(1, p[0], p[1]);
                mass += q.weight * modulus * f * f.transpose();
                right -= q.weight * stress(p) * f;
            }
        }
    }
    const Eigen::Vector3d c = mass.ldlt().solve(right);
    return {{0, 0, 0, 0, 0, 0, c[0], c[1], c[2]}};
}

}  // namespace

std::string one_square() {
    return "[[part.shape]]\nadd = \"rectangle\"\ncorner = [0.5, 0]\nsize = [1, 1]\nnames = { left = \"left\", right = "
           "\"right\", bottom = \"bottom\", top = \"top\" }\n";
}

std::string two_rectangles() {
    return "[[part.shape]]\nadd = \"rectangle\"\ncorner = [0.5, 0]\nsize = [0.6, 1]\nregion = \"one\"\nnames = { left "
           "= "
           "\"left\", bottom = \"bottom\", top = \"top\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [1.1, "
           "0]\nsize = "
           "[0.4, 1]\nregion = \"two\"\nnames = { right = \"right\", bottom = \"bottom\", top = \"top\" }\n";
}

Manufactured manufactured_elasticity(Plane plane, ManufacturedMaterial kind) {
    const bool orthotropic = kind == ManufacturedMaterial::orthotropic;
    MaterialSpec material = material_of(orthotropic);
    Exponentials e;
    if (kind == ManufacturedMaterial::nearly_incompressible) {
        material.poissons_ratio = 0.4999;
        e.c = e.a;  // both the same function, in such proportion that no volume changes
        e.d = e.b;
        e.v = -e.u * e.a / e.b;
    }
    const TensorMatrix<2> k = elastic_law(material, plane).stiffness;
    const bool round = plane == Plane::axisymmetric;
    const Combination exx{{e.a}}, eyy{{0, e.d}}, exy{{e.b, e.c}};
    Combination ezz;
    if (round) ezz = {{0, 0, 1}};
    if (plane == Plane::generalised_strain) {
        const auto in_plane = [&](const Vec2& p) {
            const double u = e.u * std::exp(e.a * p[0] + e.b * p[1]), v = e.v * std::exp(e.c * p[0] + e.d * p[1]);
            return k[3][0] * e.a * u + k[3][1] * e.d * v + k[3][2] * (e.b * u + e.c * v);
        };
        ezz = free_ends(in_plane, k[3][3]);
    }
    std::array<Combination, 4> s;
    for (std::size_t i = 0; i < 4; ++i) s[i] = k[i][0] * exx + k[i][1] * eyy + k[i][2] * exy + k[i][3] * ezz;
    Combination bx = -1 * (by_x(s[0], e) + by_y(s[2], e)), by = -1 * (by_x(s[2], e) + by_y(s[1], e));
    if (round) {
        bx = bx + -1 * (s[0] + -1 * s[3]).over_x();
        by = by + -1 * s[2].over_x();
    }
    Manufactured m;
    m.ux = "U";
    m.uy = "V";
    m.sxx = s[0].text();
    m.syy = s[1].text();
    m.sxy = s[2].text();
    m.szz = s[3].text();
    m.text =
        head(plane) + "[variables]\n" + text_of(e) +
        fmt::format("sxx = \"{}\"\nsyy = \"{}\"\nsxy = \"{}\"\nszz = \"{}\"\n", m.sxx, m.syy, m.sxy, m.szz) +
        "[material.m]\n" +
        (orthotropic ? wood : fmt::format("youngs_modulus = 1000\npoissons_ratio = {}\n", material.poissons_ratio)) +
        "[support.given]\non = [\"left\", \"bottom\"]\nux = \"U\"\nuy = \"V\"\n[load.rim]\non = [\"right\", "
        "\"top\"]\ntraction = [\"sxx * nx + sxy * ny\", \"sxy * nx + syy * ny\"]\n[load.inside]\nbody_force = [\"" +
        bx.text() + "\", \"" + by.text() + "\"]\n[exact_stress]\nsxx = \"sxx\"\nsyy = \"syy\"\nsxy = \"sxy\"\n" +
        (round || plane == Plane::generalised_strain ? "szz = \"szz\"\n" : "");
    return m;
}

Manufactured manufactured_conduction(bool axisymmetric, bool orthotropic) {
    const auto k = conduction_law(material_of(orthotropic)).conductivity;
    const Exponentials e;
    const Combination tx{{e.a}}, ty{{e.b}};
    const Combination qx = -1 * (k[0][0] * tx + k[0][1] * ty), qy = -1 * (k[1][0] * tx + k[1][1] * ty);
    Combination source = by_x(qx, e) + by_y(qy, e);
    if (axisymmetric) source = source + qx.over_x();
    Manufactured m;
    m.potential = "U";
    m.qx = qx.text();
    m.qy = qy.text();
    // On top a transfer: flux into the part = h (ambient - U), so that the ambient follows.
    m.text =
        head(axisymmetric ? Plane::axisymmetric : Plane::stress) + "[variables]\n" + text_of(e) +
        fmt::format("qx = \"{}\"\nqy = \"{}\"\n", m.qx, m.qy) +
        "[material.m]\nconductivity = " + (orthotropic ? "[3, 0.5]\nangle = \"25 deg\"\n" : "2\n") +
        "[support.given]\non = [\"left\", \"bottom\"]\npotential = \"U\"\n[load.side]\non = \"right\"\nflux = \"-(qx "
        "* nx + qy * ny)\"\n[load.top]\non = \"top\"\ntransfer = 3\nambient = \"U - (qx * nx + qy * ny) / "
        "3\"\n[load.inside]\nsource = \"" +
        source.text() + "\"\n";
    return m;
}

Manufactured linear_elasticity(Plane plane) {
    const bool round = plane == Plane::axisymmetric;
    // Round the axis only displacements in proportion to the radius have constant strain.
    const double xx = 0.01, xy = round ? 0 : -0.003, yx = round ? 0.004 : 0.002, yy = 0.005;
    const ElasticLaw law = elastic_law(material_of(false), plane);
    Strain strain{xx, yy, xy + yx, round ? xx : 0};
    if (plane == Plane::generalised_strain)  // the ends are free: no stress along z
        strain[3] = -(law.stiffness[3][0] * xx + law.stiffness[3][1] * yy) / law.stiffness[3][3];
    const Stress s = law.stress(strain);
    Manufactured m;
    m.ux = fmt::format("{} * x + {} * y", xx, xy);
    m.uy = fmt::format("{} * x + {} * y", yx, yy);
    m.sxx = fmt::format("{:.17g}", s[0]);
    m.syy = fmt::format("{:.17g}", s[1]);
    m.sxy = fmt::format("{:.17g}", s[2]);
    m.szz = fmt::format("{:.17g}", s[3]);
    // The shear stress of an axisymmetric body in this state is in equilibrium with a body force sxy / x along y, and
    // the hoop stress with none, since it equals the radial one.
    m.text = head(plane) + "[material.m]\n" + isotropic +
             fmt::format("[support.given]\non = [\"left\", \"bottom\", \"right\", \"top\"]\nux = \"{}\"\nuy = \"{}\"\n",
                         m.ux, m.uy) +
             fmt::format("[load.inside]\nbody_force = [0, \"{}\"]\n",
                         round ? fmt::format("-({:.17g}) / x", s[2]) : std::string("0")) +
             fmt::format("[exact_stress]\nsxx = \"{}\"\nsyy = \"{}\"\nsxy = \"{}\"\nszz = \"{}\"\n", m.sxx, m.syy,
                         m.sxy, m.szz);
    return m;
}

Manufactured linear_conduction(bool axisymmetric) {
    Manufactured m;
    // Round the axis a potential that changes with the radius alone is not linear without sources.
    m.potential = axisymmetric ? "3 + 2 * y" : "3 + 2 * y - 1.5 * x";
    m.qx = axisymmetric ? "0" : "3";
    m.qy = "-4";
    m.text = head(axisymmetric ? Plane::axisymmetric : Plane::stress) +
             "[material.m]\nconductivity = 2\n[support.given]\non = [\"left\", \"bottom\", \"right\", "
             "\"top\"]\npotential = \"" +
             m.potential + "\"\n";
    return m;
}

}  // namespace dotsift
