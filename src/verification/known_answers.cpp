// Problems whose answer is known in closed form, or has been computed by many.

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "verification/verification.hpp"

namespace dotsift {

namespace {

constexpr double pi = std::numbers::pi;

std::string number(double v) {
    return fmt::format("{:.17g}", v);
}

/// A quarter of a ring, held by symmetry.
std::string quarter_ring(double inner, double outer) {
    return fmt::format(
        "[[part.shape]]\nadd = \"circle\"\nradius = {0}\nname = \"outside\"\n[[part.shape]]\ncut = \"circle\"\nradius "
        "= "
        "{1}\nname = \"inside\"\n[[part.shape]]\nintersect = \"rectangle\"\nsize = [{0}, {0}]\nnames = {{ left = "
        "\"x_zero\", bottom = \"y_zero\" }}\n",
        outer, inner);
}
const std::string ring_supports =
    "[support.x]\non = \"x_zero\"\nhold = \"symmetry\"\n[support.y]\non = \"y_zero\"\nhold = \"symmetry\"\n";

std::string elastic(double e, double nu, const std::string& more = "") {
    return fmt::format("[material.m]\nyoungs_modulus = {}\npoissons_ratio = {}\n{}", e, nu, more);
}

/// Lame's ring under pressure inside: radial displacement and hoop stress at its inner edge.
struct Lame {
    double a, b, e, nu, p;
    bool strain;
    [[nodiscard]] double hoop() const { return p * (a * a + b * b) / (b * b - a * a); }
    [[nodiscard]] double displacement() const {
        const double e1 = strain ? e / (1 - nu * nu) : e, nu1 = strain ? nu / (1 - nu) : nu;
        return p * a / e1 * ((a * a + b * b) / (b * b - a * a) + nu1);
    }
};

KnownAnswer pressure_ring(const std::string& problem, const Lame& l, double tolerance) {
    KnownAnswer k;
    k.problem = problem;
    k.source = "Timoshenko & Goodier 1970, Theory of Elasticity, art. 28";
    k.text = fmt::format("format = 1\n[part]\nplane = \"{}\"\n", l.strain ? "strain" : "stress") +
             quarter_ring(l.a, l.b) + elastic(l.e, l.nu) + ring_supports +
             fmt::format(
                 "[load.p]\non = \"inside\"\npressure = {}\n[size]\nglobal = 0.1\nsegments_per_circle = "
                 "48\n[size.local.inside]\non = \"inside\"\nsize = 0.03\n",
                 l.p) +
             "[quantity.radial_displacement]\nof = \"ur\"\ntake = \"mean\"\non = \"inside\"\n"
             "[quantity.hoop_stress]\nof = \"stt\"\ntake = \"mean\"\non = \"inside\"\n";
    k.answers = {{"radial_displacement", l.displacement(), tolerance}, {"hoop_stress", l.hoop(), 10 * tolerance}};
    return k;
}

KnownAnswer pressure_tube(const std::string& problem, double nu) {
    const Lame l{1, 2, 1000, nu, 10, true};
    KnownAnswer k;
    k.problem = problem;
    k.source = "Timoshenko & Goodier 1970, art. 28, plane strain";
    k.text =
        "format = 1\n[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, "
        "0]\nsize = [1, 0.5]\nnames = { left = \"inside\", bottom = \"low\", top = \"high\" }\n" +
        elastic(l.e, l.nu) +
        "[support.ends]\non = [\"low\", \"high\"]\nhold = \"symmetry\"\n[load.p]\non = \"inside\"\npressure = "
        "10\n[size]\nglobal = 0.1\n[quantity.radial_displacement]\nof = \"ux\"\ntake = \"mean\"\non = "
        "\"inside\"\n[quantity.hoop_stress]\nof = \"szz\"\ntake = \"mean\"\non = \"inside\"\n";
    k.answers = {{"radial_displacement", l.displacement(), 1e-5}, {"hoop_stress", l.hoop(), 2e-3}};
    return k;
}

/// A disc, or a long cylinder between walls, that turns: hoop stress at its hole, radial displacement of the rim.
KnownAnswer rotating_ring(const std::string& problem, double poissons_ratio, bool strain) {
    const double a = 1, b = 4, rho = 2, w = 3;
    const double s = rho * w * w;
    // In plane strain the formulas of the disc hold with other constants (art. 17).
    const double e = strain ? 1000 / (1 - poissons_ratio * poissons_ratio) : 1000,
                 nu = strain ? poissons_ratio / (1 - poissons_ratio) : poissons_ratio;
    KnownAnswer k;
    k.problem = problem;
    k.source = "Timoshenko & Goodier 1970, art. 32";
    k.text = fmt::format("format = 1\n[part]\nplane = \"{}\"\n", strain ? "strain" : "stress") + quarter_ring(a, b) +
             elastic(1000, poissons_ratio, fmt::format("density = {}\n", rho)) + ring_supports +
             fmt::format(
                 "[load.spin]\nrotation = {}\n[size]\nglobal = 0.2\nsegments_per_circle = 48\n[size.local.inside]\non "
                 "= \"inside\"\nsize = 0.04\n",
                 w) +
             "[quantity.hoop_stress]\nof = \"stt\"\ntake = \"mean\"\non = \"inside\"\n"
             "[quantity.rim_displacement]\nof = \"ur\"\ntake = \"mean\"\non = \"outside\"\n";
    const double hoop = (3 + nu) / 4 * s * (b * b + (1 - nu) / (3 + nu) * a * a);
    // At the rim the radial stress vanishes, so that u = r s_tt / E.
    const double rim = (3 + nu) / 8 * s * (2 * a * a + b * b - (1 + 3 * nu) / (3 + nu) * b * b) * b / e;
    k.answers = {{"hoop_stress", hoop, 5e-3}, {"rim_displacement", rim, 1e-4}};
    return k;
}

/// A cantilever with the tractions of the exact solution at both ends.
KnownAnswer cantilever() {
    const double length = 8, half = 1, e = 1000, nu = 0.25, p = 1, inertia = 2 * half * half * half / 3;
    KnownAnswer k;
    k.problem = "cantilever under an end load";
    k.source = "Timoshenko & Goodier 1970, art. 21";
    // Loaded at x = 0 (down: P along -y on the part), held at x = L; u and v given there by the solution itself.
    const double g = e / (2 * (1 + nu));
    const double ei = e * inertia, gi = g * inertia;
    // sxx = -P x y / I, sxy = -P (c^2 - y^2) / (2 I); displacements as in art. 21 with the end's middle held.
    const std::string u = fmt::format(
        "-{0}*x^2*y/(2*{1}) - {2}*{0}*y^3/(6*{1}) + {0}*y^3/(6*{3}) + ({0}*{4}^2/(2*{1}) - "
        "{0}*{5}^2/(2*{3}))*y",
        p, number(ei), nu, number(gi), length, half);
    const std::string v = fmt::format(
        "{2}*{0}*x*y^2/(2*{1}) + {0}*x^3/(6*{1}) - {0}*{3}^2*x/(2*{1}) + {0}*{3}^3/(3*{1})", p, number(ei), nu, length);
    k.text =
        fmt::format(
            "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [0, -{1}]\nsize = [{0}, "
            "{2}]\nnames = {{ left = \"tip\", right = \"wall\" }}\n[[part.shape]]\nmark = \"point\"\nat = [0, "
            "0]\nname = \"middle\"\n",
            length, half, 2 * half) +
        elastic(e, nu) + fmt::format("[support.wall]\non = \"wall\"\nux = \"{}\"\nuy = \"{}\"\n", u, v) +
        fmt::format("[load.tip]\non = \"tip\"\ntraction = [0, \"{}*({}^2 - y^2)/(2*{})\"]\n[size]\nglobal = 0.4\n", p,
                    half, number(inertia)) +
        "[quantity.deflection]\nof = \"uy\"\nat = [0, 0]\n[quantity.bending_stress]\nof = \"sxx\"\nat = [4, -1]\n" +
        "[path.middle]\npoints = [[4, 1], [4, -1]]\n[quantity.shear_force]\nof = \"section_force_y\"\nalong = "
        "\"middle\"\n[quantity.bending_moment]\nof = \"section_moment\"\nalong = \"middle\"\n";
    k.answers = {{"deflection", p * length * length * length / (3 * ei), 1e-4},
                 {"bending_stress", p * 4 * half / inertia, 2e-3},
                 {"shear_force", -p, 2e-3},
                 {"bending_moment", 4 * p, 2e-3}};
    return k;
}

/// A quarter of a ring that a couple bends.
KnownAnswer curved_bar() {
    const double a = 1, b = 2, m = 1;
    const double l = std::log(b / a), n = (b * b - a * a) * (b * b - a * a) - 4 * a * a * b * b * l * l;
    KnownAnswer k;
    k.problem = "curved bar under pure bending";
    k.source = "Timoshenko & Goodier 1970, art. 29";
    // The couple closes the bar: sigma_theta at r on the end faces, tension inside is positive for M as in art. 29.
    const std::string hoop =
        fmt::format("-4*{0}/{1}*(-({2}^2*{3}^2/r^2)*{4} + {3}^2*ln(r/{3}) + {2}^2*ln({2}/r) + {3}^2 - {2}^2)", m,
                    number(n), a, b, number(l));
    k.text = "format = 1\n[part]\n" + quarter_ring(a, b) + elastic(1000, 0.3) +
             "[support.y]\non = \"y_zero\"\nhold = \"symmetry\"\n[support.pin]\nat = [1, 0]\nux = 0\n" +
             fmt::format("[load.couple]\non = \"x_zero\"\ntraction = [\"-({})\", 0]\n", hoop) +
             "[size]\nglobal = 0.1\nsegments_per_circle = 48\n[size.local.inside]\non = \"inside\"\nsize = "
             "0.03\n[quantity.inner_stress]\nof = \"stt\"\ntake = "
             "\"mean\"\non = \"inside\"\n[quantity.outer_stress]\nof = \"stt\"\ntake = \"mean\"\non = \"outside\"\n";
    const auto at = [&](double r) {
        return -4 * m / n *
               (-(a * a * b * b / (r * r)) * l + b * b * std::log(r / b) + a * a * std::log(a / r) + b * b - a * a);
    };
    k.answers = {{"inner_stress", at(a), 3e-3}, {"outer_stress", at(b), 3e-3}};
    return k;
}

KnownAnswer cook() {
    KnownAnswer k;
    k.problem = "tapered panel under shear";
    k.source = "Cook 1974, J. Struct. Div. ASCE 100; value of fine meshes in the literature";
    k.text =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [48, 44], [48, 60], [0, "
        "44]]\nnames = { side2 = \"tip\", side4 = \"wall\" }\n[[part.shape]]\nmark = \"point\"\nat = [48, 52]\nname = "
        "\"middle\"\n" +
        elastic(1, 1.0 / 3) +
        "[support.wall]\non = \"wall\"\nhold = \"fixed\"\n[load.shear]\non = \"tip\"\nforce = [0, 1]\n[size]\nglobal = "
        "1\n[quantity.tip_deflection]\nof = \"uy\"\nat = [48, 52]\n";
    k.answers = {{"tip_deflection", 23.96, 2e-3}};
    return k;
}

/// An elastic disc in a large plate under tension: the stress in the disc is even.
KnownAnswer inclusion() {
    const double e1 = 1000, e2 = 3000, nu = 0.3, p = 1, width = 60;
    const double mu1 = e1 / (2 * (1 + nu)), mu2 = e2 / (2 * (1 + nu)), kappa = (3 - nu) / (1 + nu);
    const double sum = mu2 * (kappa + 1) / (2 * mu2 + mu1 * (kappa - 1)), gap = mu2 * (kappa + 1) / (mu1 + mu2 * kappa);
    KnownAnswer k;
    k.problem = "elastic disc in a large plate";
    k.source = "Goodier 1933, J. Appl. Mech. 1; plate 60 times the disc's radius";
    k.text = fmt::format(
                 "format = 1\n[part]\nname = \"plate\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [{0}, "
                 "{0}]\nnames = {{ left = \"x_zero\", bottom = \"y_zero\", right = \"pulled\" "
                 "}}\n[[part.shape]]\nadd = \"circle\"\nradius = 1\nregion = \"disc\"\n[[part.shape]]\nintersect "
                 "= \"rectangle\"\nsize = [{0}, {0}]\n",
                 width) +
             fmt::format(
                 "[material.plate]\non = \"plate\"\nyoungs_modulus = {}\npoissons_ratio = {}\n[material.disc]\non "
                 "= \"disc\"\nyoungs_modulus = {}\npoissons_ratio = {}\n",
                 e1, nu, e2, nu) +
             "[support.x]\non = \"x_zero\"\nhold = \"symmetry\"\n[support.y]\non = \"y_zero\"\nhold = \"symmetry\"\n" +
             fmt::format("[load.pull]\non = \"pulled\"\ntraction = [{}, 0]\n", p) +
             "[size]\nglobal = 6\n[size.local.disc]\non = \"disc\"\nsize = 0.08\nwithin = 1\n"
             "[quantity.stress_along]\nof = \"sxx\"\ntake = \"mean\"\non = \"disc\"\n"
             "[quantity.stress_across]\nof = \"syy\"\ntake = \"mean\"\non = \"disc\"\n"
             "[quantity.largest]\nof = \"sxx\"\ntake = \"maximum\"\non = \"disc\"\n";
    k.answers = {{"stress_along", p / 2 * (sum + gap), 2e-3},
                 {"stress_across", p / 2 * (sum - gap), 2e-2},
                 {"largest", p / 2 * (sum + gap), 2e-2}};
    return k;
}

/// A thin fin that air cools on both sides.
KnownAnswer fin() {
    const double length = 50, half = 0.5, conductivity = 200, transfer = 0.02, base = 100, ambient = 20;
    const double m = std::sqrt(transfer / (conductivity * half));
    KnownAnswer k;
    k.problem = "cooled fin";
    k.source = "Carslaw & Jaeger 1959, Conduction of Heat in Solids, art. 4.5; Biot number 5e-5";
    k.text = fmt::format(
                 "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [{}, {}]\nnames = {{ left = "
                 "\"base\", top = \"side\" }}\n[material.m]\nconductivity = {}\n[support.base]\non = "
                 "\"base\"\npotential = {}\n[load.air]\non = \"side\"\ntransfer = {}\nambient = "
                 "{}\n[size]\nglobal = 0.5\n",
                 length, half, conductivity, base, transfer, ambient) +
             fmt::format("[quantity.tip]\nof = \"potential\"\nat = [{}, 0]\n[quantity.heat]\nof = \"reaction_flow\"\n",
                         length);
    k.answers = {{"tip", ambient + (base - ambient) / std::cosh(m * length), 1e-3},
                 {"heat", conductivity * half * m * (base - ambient) * std::tanh(m * length), 1e-3}};
    return k;
}

/// A wall of two materials with a resistance between them.
KnownAnswer wall() {
    const double l1 = 3, l2 = 2, k1 = 5, k2 = 0.5, r = 1.5, hot = 80, cold = 10;
    const double q = (hot - cold) / (l1 / k1 + r + l2 / k2);
    KnownAnswer k;
    k.problem = "wall of two materials with a contact resistance";
    k.source = "Carslaw & Jaeger 1959, art. 3.2";
    k.text = fmt::format(
        "format = 1\n[part]\nname = \"inner\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [{0}, 2]\nnames = {{ left = "
        "\"hot\" }}\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [{0}, 0]\nsize = [{1}, 2]\nregion = "
        "\"outer\"\nnames = {{ "
        "right = \"cold\" }}\n[material.a]\non = \"inner\"\nconductivity = {2}\n[material.b]\non = "
        "\"outer\"\nconductivity = "
        "{3}\n[support.hot]\non = \"hot\"\npotential = {4}\n[support.cold]\non = \"cold\"\npotential = "
        "{5}\n[resistance.joint]\non = \"inner_and_outer\"\nvalue = {6}\n[size]\nglobal = 0.6\n[quantity.flux]\nof = "
        "\"flux_x\"\ntake = \"mean\"\n[quantity.hot_side]\nof = \"potential\"\ntake = \"mean\"\non = "
        "\"inner_and_outer\"\ninside = \"inner\"\n[quantity.cold_side]\nof = \"potential\"\ntake = \"mean\"\non = "
        "\"inner_and_outer\"\ninside = \"outer\"\n[quantity.heat]\nof = \"reaction_flow\"\non = \"hot\"\n",
        l1, l2, k1, k2, hot, cold, r);
    k.answers = {{"flux", q, 1e-9},
                 {"hot_side", hot - q * l1 / k1, 1e-9},
                 {"cold_side", cold + q * l2 / k2, 1e-9},
                 {"heat", 2 * q, 1e-9}};
    return k;
}

/// Two rings, hot inside.
KnownAnswer annulus() {
    const double a = 1, c = 1.5, b = 2.5, k1 = 4, k2 = 1, hot = 100, cold = 0;
    const double resistance = std::log(c / a) / (2 * pi * k1) + std::log(b / c) / (2 * pi * k2);
    const double heat = (hot - cold) / resistance;
    KnownAnswer k;
    k.problem = "annulus of two materials";
    k.source = "Carslaw & Jaeger 1959, art. 7.2";
    k.text = fmt::format(
                 "format = 1\n[part]\nname = \"outer\"\n[[part.shape]]\nadd = \"circle\"\nradius = {2}\nname = "
                 "\"outside\"\n[[part.shape]]\nadd = \"circle\"\nradius = {1}\nregion = "
                 "\"inner\"\n[[part.shape]]\ncut = \"circle\"\nradius = {0}\nname = "
                 "\"inside\"\n[[part.shape]]\nintersect = \"rectangle\"\nsize = [3, 3]\n[material.a]\non = "
                 "\"inner\"\nconductivity = {3}\n[material.b]\non = \"outer\"\nconductivity = "
                 "{4}\n[support.hot]\non = \"inside\"\npotential = {5}\n[support.cold]\non = "
                 "\"outside\"\npotential = {6}\n[size]\nglobal = 0.12\nsegments_per_circle = 64\n",
                 a, c, b, k1, k2, hot, cold) +
             "[quantity.quarter_heat]\nof = \"reaction_flow\"\non = \"hot\"\n[quantity.between]\nof = "
             "\"potential\"\ntake = \"mean\"\non = \"outer_and_inner\"\n";
    k.answers = {{"quarter_heat", heat / 4, 1e-4}, {"between", hot - heat * std::log(c / a) / (2 * pi * k1), 1e-4}};
    return k;
}

/// A bar between two walls, or free, with heat along it.
KnownAnswer heated_bar() {
    const double e = 1000, alpha = 1e-3, hot = 60, cold = 20, reference = 20, length = 4;
    KnownAnswer k;
    k.problem = "bar under thermal strain, from its own temperature";
    k.source = "Boley & Weiner 1960, Theory of Thermal Stresses, art. 9.2";
    k.text = fmt::format(
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [{}, 1]\nnames = {{ left = \"left\", right = "
        "\"right\", bottom = \"bottom\" }}\n[conduction]\nreference = {}\n[material.m]\nyoungs_modulus = "
        "{}\npoissons_ratio = "
        "0\nexpansion = {}\nconductivity = 3\n[support.cold]\non = \"left\"\npotential = {}\nux = 0\n[support.hot]\non "
        "= "
        "\"right\"\npotential = {}\n[support.floor]\non = \"bottom\"\nhold = \"symmetry\"\n[size]\nglobal = "
        "0.5\n[quantity.lengthening]\nof = \"ux\"\ntake = \"mean\"\non = \"right\"\n",
        length, reference, e, alpha, cold, hot);
    k.answers = {{"lengthening", alpha * (0.5 * (hot + cold) - reference) * length, 2e-2}};
    return k;
}

KnownAnswer clamped_bar() {
    const double e = 1000, nu = 0.3, alpha = 1e-3, change = 40;
    KnownAnswer k;
    k.problem = "heated bar between two walls, plane strain";
    k.source = "Boley & Weiner 1960, art. 9.2";
    k.text = fmt::format(
                 "format = 1\n[part]\nplane = \"strain\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, "
                 "1]\nnames = {{ left = \"left\", right = \"right\", bottom = \"bottom\" }}\n") +
             elastic(e, nu, fmt::format("expansion = {}\n", alpha)) +
             "[support.walls]\non = [\"left\", \"right\"]\nux = 0\n[support.floor]\non = \"bottom\"\nhold = "
             "\"symmetry\"\n" +
             fmt::format("[load.heat]\ntemperature_change = {}\n[size]\nglobal = 0.5\n", change) +
             "[quantity.stress_along]\nof = \"sxx\"\ntake = \"mean\"\n[quantity.stress_through]\nof = \"szz\"\ntake = "
             "\"mean\"\n[quantity.push]\nof = \"reaction_x\"\non = \"walls\"\n";
    const double s = -e * alpha * change / (1 - nu);  // sxx = szz, syy = 0
    k.answers = {{"stress_along", s, 1e-9}, {"stress_through", s, 1e-9}};
    return k;
}

/// An eighth of a hollow ball by shapes of space, inner radius 1, outer 2.
const std::string eighth_of_ball =
    "format = 1\n[part]\n[[part.shape]]\nadd = \"sphere\"\nradius = 2\nname = \"outside\"\n[[part.shape]]\ncut = "
    "\"sphere\"\nradius = 1\nname = \"inside\"\n[[part.shape]]\nintersect = \"box\"\nsize = [3, 3, 3]\nnames = { left "
    "= "
    "\"x_zero\", front = \"y_zero\", bottom = \"z_zero\" }\n[size]\nglobal = 0.22\nsegments_per_circle = "
    "40\n[size.local.inside]\non = \"inside\"\nsize = 0.1\n";

/// A hollow ball under pressure inside.
KnownAnswer pressure_ball() {
    constexpr double e = 1000, nu = 0.3, p = 10, a3 = 1, b3 = 8;
    KnownAnswer k;
    k.problem = "hollow ball of tetrahedra";
    k.source = "Timoshenko & Goodier 1970, Theory of Elasticity, art. 136";
    k.text = eighth_of_ball + elastic(e, nu) + "[support.s]\non = \"*_zero\"\nhold = \"symmetry\"\n" +
             fmt::format("[load.p]\non = \"inside\"\npressure = {}\n", p) +
             "[quantity.hoop_stress]\nof = \"max_principal\"\ntake = \"mean\"\non = "
             "\"inside\"\n[quantity.displacement]\nof = "
             "\"uz\"\nat = [0, 0, 1]\n[quantity.energy]\nof = \"strain_energy\"\n";
    const double u = p / e * ((1 - 2 * nu) * a3 + (1 + nu) * b3 / 2) / (b3 - a3);
    k.answers = {{"hoop_stress", p * (2 * a3 + b3) / (2 * (b3 - a3)), 1e-2},
                 {"displacement", u, 1e-3},
                 {"energy", p * u * (4 * pi / 8) / 2, 1e-3}};
    return k;
}

/// Heat from the inside of a hollow ball to its outside.
KnownAnswer heated_ball() {
    constexpr double conductivity = 3, inside = 80, outside = 20;
    KnownAnswer k;
    k.problem = "heat through a hollow ball of tetrahedra";
    k.source = "Carslaw & Jaeger 1959, Conduction of Heat in Solids, sec. 9.2";
    k.text = eighth_of_ball +
             fmt::format(
                 "[material.m]\nconductivity = {}\n[support.hot]\non = \"inside\"\npotential = "
                 "{}\n[support.cold]\non = \"outside\"\npotential = {}\n",
                 conductivity, inside, outside) +
             "[quantity.flow]\nof = \"reaction_flow\"\non = \"hot\"\n[quantity.middle]\nof = \"potential\"\nat = [0, "
             "1.5, 0]\n";
    k.answers = {{"flow", 4 * pi / 8 * conductivity * (inside - outside) / (1 - 0.5), 1e-3},
                 {"middle", outside + (inside - outside) * (1 / 1.5 - 0.5) / (1 - 0.5), 1e-3}};
    return k;
}

/// A displacement that is linear in the place, given on all faces: every element must show it exactly, curved ones,
/// too.
KnownAnswer linear_block() {
    constexpr double e = 1000, nu = 0.3;
    KnownAnswer k;
    k.problem = "patch test of a bored block of tetrahedra";
    k.source = "Irons & Razzaque 1972, patch test";
    k.text =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"box\"\nsize = [3, 2, 1]\nname = \"all\"\n[[part.shape]]\ncut = "
        "\"cylinder\"\nfrom = [1, 1, -1]\nto = [1.5, 1, 2]\nradius = 0.4\nname = \"all\"\n[size]\nglobal = 0.5\n" +
        elastic(e, nu) +
        "[support.all]\non = \"all\"\nux = \"0.001*x + 0.002*y\"\nuy = \"0.002*y + 0.003*z\"\nuz = \"0.003*z - "
        "0.001*x\"\n";
    const double mu = e / (2 * (1 + nu)), volume = 0.006 * e * nu / ((1 + nu) * (1 - 2 * nu));
    const auto ask = [&](const char* field, double value) {
        for (const char* take : {"maximum", "minimum"}) {
            k.text += fmt::format("[quantity.{0}_{1}]\nof = \"{0}\"\ntake = \"{1}\"\n", field, take);
            k.answers.push_back({fmt::format("{}_{}", field, take), value, 1e-8});  // what the iteration leaves
        }
    };
    ask("sxx", volume + 2 * mu * 0.001);
    ask("szz", volume + 2 * mu * 0.003);
    ask("sxy", mu * 0.002);
    ask("syz", mu * 0.003);
    ask("szx", -mu * 0.001);
    return k;
}

}  // namespace

std::vector<KnownAnswer> known_answers() {
    return {pressure_ring("thick cylinder, plane strain", {1, 2, 1000, 0.3, 10, true}, 1e-4),
            pressure_ring("thick disc, plane stress", {1, 2, 1000, 0.3, 10, false}, 1e-4),
            pressure_ring("nearly incompressible cylinder, nu = 0.4999", {1, 2, 1000, 0.4999, 10, true}, 1e-3),
            pressure_tube("thick cylinder as a body of revolution", 0.3),
            pressure_tube("nearly incompressible body of revolution, nu = 0.4999", 0.4999),
            rotating_ring("rotating disc with a hole", 0.3, false),
            rotating_ring("rotating cylinder, nearly incompressible", 0.4999, true),
            cantilever(),
            curved_bar(),
            cook(),
            inclusion(),
            fin(),
            wall(),
            annulus(),
            heated_bar(),
            clamped_bar(),
            linear_block(),
            pressure_ball(),
            heated_ball()};
}

SingularCorner l_shape() {
    SingularCorner c;
    c.problem = "L-shape, plane strain";
    c.source = "Szabo & Babuska 1991, Finite Element Analysis, sec. 10.4";
    c.exponent = 0.544483736782464;
    c.text = R"toml(format = 1
[variables]
lambda = 0.544483736782464
q = 0.543075578836737
c = "1 / sqrt(2)"
sxx = "lambda * r^(lambda - 1) * ((2 - q * (lambda + 1)) * cos((lambda - 1) * theta) - (lambda - 1) * cos((lambda - 3) * theta))"
syy = "lambda * r^(lambda - 1) * ((2 + q * (lambda + 1)) * cos((lambda - 1) * theta) + (lambda - 1) * cos((lambda - 3) * theta))"
sxy = "lambda * r^(lambda - 1) * ((lambda - 1) * sin((lambda - 3) * theta) + q * (lambda + 1) * sin((lambda - 1) * theta))"
[part]
plane = "strain"
[[part.shape]]
add = "polygon"
corners = [[0, 0], ["-c", "-c"], [0, "-2*c"], ["2*c", 0], [0, "2*c"], ["-c", "c"]]
names = { side2 = "outer", side3 = "outer", side4 = "outer", side5 = "outer" }
[material.unit]
youngs_modulus = 1
poissons_ratio = 0.3
[support.hold]
at = [0, 0]
ux = 0
uy = 0
[support.turn]
at = ["2*c", 0]
uy = 0
[load.field]
on = "outer"
traction = ["sxx * nx + sxy * ny", "sxy * nx + syy * ny"]
[size]
global = 0.3
[exact_stress]
sxx = "sxx"
syy = "syy"
sxy = "sxy"
)toml";
    return c;
}

}  // namespace dotsift
