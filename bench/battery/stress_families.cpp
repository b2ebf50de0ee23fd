#include <fmt/format.h>

#include <array>
#include <cmath>

#include "families.hpp"

namespace dotsift::bench {

namespace {

std::string plane(const char* kind) {
    return fmt::format("[part]\nplane = \"{}\"\n", kind);
}
std::string start(const FieldFormulas& f, const char* kind) {
    return "format = 1\n" + variables(f) + plane(kind);
}

/// A free hole of radius a under stresses far away: mean of the principal ones g, (syy - sxx)/2 + i sxy = b.
Kolosov free_hole(double a, double g, PowerTerm b, bool strain, double nu) {
    Kolosov k;
    k.plane_strain = strain;
    k.poissons_ratio = nu;
    k.phi = {{g, 0, 1}, {-b.re * a * a, b.im * a * a, -1}};
    k.psi = {{b.re, b.im, 1}, {-2 * g * a * a, 0, -1}, {-b.re * std::pow(a, 4), b.im * std::pow(a, 4), -3}};
    return k;
}

/// The field at a corner whose free faces are at +-alpha from the x axis, symmetric or antisymmetric about it.
double corner_exponent(double alpha, bool symmetric) {
    const auto f = [&](double l) { return std::sin(2 * l * alpha) + (symmetric ? l : -l) * std::sin(2 * alpha); };
    double low = 0.3, high = symmetric ? 0.99 : 0.9999;
    if (alpha > 3.14) return 0.5;
    for (int k = 0; k < 200; ++k) {
        const double m = 0.5 * (low + high);
        ((f(m) > 0) == (f(low) > 0) ? low : high) = m;
    }
    return low;
}
Kolosov corner_field(double alpha, bool symmetric, bool strain) {
    Kolosov k;
    k.plane_strain = strain;
    const double l = corner_exponent(alpha, symmetric);
    const double c = std::cos(l * alpha), s = std::sin(l * alpha), t = (2 - l) * alpha;
    // Free at +alpha: A e^{i l alpha} + conj(A) l e^{i (2 - l) alpha} + conj(B) e^{-i l alpha} = 0
    if (symmetric) {
        const double b = std::fabs(c) > std::fabs(s) ? -(c + l * std::cos(t)) / c : (s + l * std::sin(t)) / s;
        k.phi = {{1, 0, l}};
        k.psi = {{b, 0, l}};
    } else {  // A = i, B = i b
        // real: -s + l sin(t) - b s = 0 ... imaginary: c - l cos(t) - b c = 0
        const double b = std::fabs(c) > std::fabs(s) ? (c - l * std::cos(t)) / c : (-s + l * std::sin(t)) / s;
        k.phi = {{0, 1, l}};
        k.psi = {{0, b, l}};
    }
    return k;
}

/// Disc of another material in a plate under stresses far away (as above, b real): Goodier 1933.
FieldFormulas inclusion(double a, double g, double b, double e_in, double e_out, double nu) {
    const double g1 = e_in / (2 * (1 + nu)), g2 = e_out / (2 * (1 + nu)), kappa = (3 - nu) / (1 + nu);
    // Outside phi = g z + A/z, psi = b z + C/z + D/z^3; inside phi = p z, psi = q z. Tractions and displacements agree.
    // Mean part: 2p = 2g + C/a^2 and (kappa p - p)/g1 = ((kappa - 1) g - C/a^2) / g2
    const double m = (kappa - 1) / g1;
    const double p = ((kappa - 1) * g + 2 * g) / g2 / (m + 2 / g2), c = (2 * p - 2 * g) * a * a;
    // Deviator: of conj: tractions: q = b + A/a^2, 0 = D/a^6 - A/a^4; displacements: -q/g1 = (kappa A/a^2 - b) / g2
    const double big_a = (b / g2 - b / g1) / (kappa / g2 + 1 / g1) * a * a, q = b + big_a / (a * a), d = big_a * a * a;
    Kolosov in, out;
    in.youngs_modulus = e_in;
    out.youngs_modulus = e_out;
    in.poissons_ratio = out.poissons_ratio = nu;
    in.phi = {{p, 0, 1}};
    in.psi = {{q, 0, 1}};
    out.phi = {{g, 0, 1}, {big_a, 0, -1}};
    out.psi = {{b, 0, 1}, {c, 0, -1}, {d, 0, -3}};
    return inside_outside(a, in.formulas(), out.formulas());
}

Kolosov lame(double a, double b, double inner, double outer, bool strain, double nu, double e = 1000) {
    const double mean = (inner * a * a - outer * b * b) / (b * b - a * a),
                 fall = (inner - outer) * a * a * b * b / (b * b - a * a);
    Kolosov k;
    k.youngs_modulus = e;
    k.poissons_ratio = nu;
    k.plane_strain = strain;
    k.phi = {{mean / 2, 0, 1}};
    k.psi = {{-fall, 0, -1}};
    return k;
}

FieldFormulas from_polar(const std::string& srr, const std::string& stt, const std::string& srt) {
    return {{"sxx", fmt::format("({}) * cos(theta)^2 + ({}) * sin(theta)^2 - ({}) * sin(2 * theta)", srr, stt, srt)},
            {"syy", fmt::format("({}) * sin(theta)^2 + ({}) * cos(theta)^2 + ({}) * sin(2 * theta)", srr, stt, srt)},
            {"sxy", fmt::format("(({}) - ({})) * sin(theta) * cos(theta) + ({}) * cos(2 * theta)", srr, stt, srt)}};
}

const std::string energy = "[quantity.energy]\nof = \"strain_energy\"\ndual = true\n";
std::string along(const std::string& name, const std::string& take) {
    return fmt::format("along = \"{}\"\ntake = \"{}\"\ndual = true", name, take);
}
std::string path(const std::string& name, double x0, double y0, double x1, double y1) {
    return fmt::format("[path.{}]\npoints = [[{}, {}], [{}, {}]]\n", name, x0, y0, x1, y1);
}
std::string formula(const std::string& name, const std::string& text) {
    return fmt::format("[quantity.{}]\nformula = \"{}\"\n", name, text);
}

}  // namespace

std::vector<Family> stress_families() {
    std::vector<Family> out;
    const Adder add{out};
    {
        const auto f = free_hole(1, 0.25, {-0.5, 0, 0}, false, 0.3).formulas();
        add("hole, pulled", 0.5, f,
            start(f, "stress") +
                rectangle("add", 0, 0, 4, 4,
                          "names = { left = \"x_zero\", bottom = \"y_zero\", right = \"rim\", top = \"rim\" }\n") +
                disc("cut", 0, 0, 1, "hole") + steel() + symmetric_quarter() + tractions("\"rim\"") +
                quantity("peak", "sxx", on("hole")) + quantity("least", "min_principal", on("hole")) +
                quantity("near", "von_mises", at(0.3, 1.5)) + quantity("move", "ux", at(4, 4)) + energy +
                path("net", 0, 1, 0, 4) + quantity("linear", "sxx", along("net", "linearised")) +
                quantity("ratio_base", "sxx", along("net", "membrane")) + formula("factor", "peak / ratio_base"),
            "hole");
    }
    {
        const auto f = free_hole(0.5, 0, {0, 1, 0}, true, 0.35).formulas();
        add("hole, sheared, whole plate", 0.5, f,
            start(f, "strain") + rectangle("add", -2, -1.5, 3.5, 3, "name = \"rim\"\n") +
                disc("cut", 0, 0, 0.5, "hole") + steel(1000, 0.35) + pinned_as_known({{-2, -1.5}}, {{1.5, -1.5}}, f) +
                tractions("\"rim\"") + quantity("peak", "max_principal", on("hole")) +
                quantity("shear", "max_shear", on("hole")) + quantity("near", "sxy", at(0.9, 0.1)) +
                quantity("far", "sxx", at(-1.2, 0.8)) + quantity("move", "ur", on("hole")) + energy,
            "hole");
    }
    {
        const auto f = lame(1, 2, 1, 0, true, 0.3).formulas();
        add("ring, thick, pressed", 0.4, f,
            start(f, "strain") + quarter_ring(1, 2) + steel() + symmetric_quarter() +
                "[load.p]\non = \"inside\"\npressure = 1\n" + quantity("peak", "stt", on("inside")) +
                quantity("von_mises", "von_mises", on("inside")) + quantity("grow", "ur", mean("outside")) +
                quantity("middle", "srr", at(0.9, 1.2)) + quantity("held", "reaction_y", "on = \"y\"") +
                path("wall", 1, 0, 2, 0) + quantity("bend", "syy", along("wall", "linearised")) + energy,
            "inside");
    }
    {
        const auto f = lame(10, 10.5, 0, 1, false, 0.3).formulas();
        add("ring, thin, pressed from outside", 0.4, f,
            start(f, "stress") + quarter_ring(10, 10.5) + steel() + symmetric_quarter() +
                "[load.p]\non = \"outside\"\npressure = 1\n" + quantity("least", "min_principal", on("inside")) +
                quantity("hoop", "stt", mean("outside")) + quantity("grow", "ux", at(10, 0)) + energy +
                quantity("middle", "von_mises", at(7.2, 7.3)),
            "inside");
    }
    for (const bool stiff : {true, false}) {
        const auto f = inclusion(1, 0.25, -0.5, stiff ? 10000 : 100, 1000, 0.3);
        add(stiff ? "inset, stiff" : "inset, soft", 0.4, f,
            start(f, "stress") +
                rectangle("add", 0, 0, 3, 3,
                          "names = { left = \"x_zero\", bottom = \"y_zero\", right = \"rim\", top = \"rim\" }\n") +
                "[[part.shape]]\nadd = \"circle\"\nradius = 1\nregion = \"core\"\n" +
                rectangle("intersect", 0, 0, 3, 3, "names = { left = \"x_zero\", bottom = \"y_zero\" }\n") +
                "[material.core]\non = \"core\"\nyoungs_modulus = " + (stiff ? "10000" : "100") +
                "\npoissons_ratio = 0.3\n[material.rest]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n" +
                symmetric_quarter() + tractions("\"rim\"") + quantity("core_stress", "sxx", at(0.3, 0.4)) +
                quantity("outside", "von_mises", at(0.2, 1.3)) + quantity("move", "ux", at(3, 0)) + energy +
                quantity("rim_mean", "uy", mean("rim")));
    }
    {
        Kolosov k;  // shear force on a cantilever: stresses of beam theory, exact in elasticity (Timoshenko & Goodier
                    // art. 21)
        const double l = 8, h = 1, e = 1000, nu = 0.3, p = 1, i = 2.0 / 3, g = e / (2 * (1 + nu));
        const FieldFormulas f{
            {"sxx", fmt::format("-{} * ({} - x) * y / {:.17g}", p, l, i)},
            {"syy", "0"},
            {"sxy", fmt::format("{} / (2 * {:.17g}) * ({} - y^2)", p, i, h * h)},
            {"ux",
             fmt::format("-{0} * y / (6 * {1} * {2:.17g}) * ((6 * {3} - 3 * x) * x + (2 + {4}) * (y^2 - {5})) * 1.0", p,
                         e, i, l, nu, h * h)},
            {"uy", fmt::format("{0} / (6 * {1} * {2:.17g}) * (3 * {4} * y^2 * ({3} - x) + (4 + 5 * {4}) * {5} * x + (3 "
                               "* {3} - x) * x^2)",
                               p, e, i, l, nu, h * h)}};
        (void)g;
        add("beam, sheared", 0.8, f,
            start(f, "stress") +
                rectangle("add", 0, -1, 8, 2,
                          "names = { left = \"root\", right = \"tip\", top = \"rim\", bottom = \"rim\" }\n") +
                steel() + held_as_known("root", "root") + tractions("[\"tip\"]") +
                quantity("tip_moves", "uy", mean("tip")) + quantity("fibre", "sxx", at(2.2, 1)) +
                quantity("shear", "sxy", at(4.4, 0.1)) + quantity("force", "reaction_y", "dual = true") +
                path("cut", 3, -1, 3, 1) + quantity("moment", "section_moment", "along = \"cut\"\ndual = true") +
                quantity("linear", "sxx", along("cut", "linearised")) + energy);
    }
    const auto corner = [&](const std::string& name, double alpha, bool symmetric, const std::string& shape,
                            const std::string& outer) {
        const auto f = corner_field(alpha, symmetric, true).formulas();
        add(name, 0.4, f,
            start(f, "strain") + shape + steel() + held_as_known("base", "base") + tractions(outer) +
                quantity("move", "displacement", at(0.55, 0.45)) + quantity("stress", "sxx", at(0.5, 0.3)) +
                quantity("near", "von_mises", at(0.2, -0.1)) + quantity("side", "syy", mean("rim")) + energy +
                quantity("push", "reaction_x", "on = \"base\"\ndual = true"));
    };
    corner("corner of 270 degrees, opening", 3 * M_PI / 4, true,
           polygon("[[0, 0], [-1, 1], [0, 2], [2, 0], [0, -2], [-1, -1]]",
                   "names = { side2 = \"rim\", side3 = \"rim\", side4 = \"base\", side5 = \"rim\" }\n"),
           "\"rim\"");
    corner("corner of 270 degrees, sliding", 3 * M_PI / 4, false,
           polygon("[[0, 0], [-1, 1], [0, 2], [2, 0], [0, -2], [-1, -1]]",
                   "names = { side2 = \"rim\", side3 = \"rim\", side4 = \"base\", side5 = \"rim\" }\n"),
           "\"rim\"");
    corner("corner of 240 degrees, opening", 2 * M_PI / 3, true,
           polygon("[[0, 0], [-0.6, 1.03923048454132637], [1, 1.4], [1.5, 0], [1, -1.4], [-0.6, -1.03923048454132637]]",
                   "names = { side2 = \"rim\", side3 = \"rim\", side4 = \"base\", side5 = \"rim\" }\n"),
           "\"rim\"");
    corner(
        "corner of 330 degrees, opening", 11 * M_PI / 12, true,
        polygon("[[0, 0], [-1.2, 0.32153903091734727], [-1.2, 1.2], [1.2, 1.2], [1.2, -1.2], [-1.2, -1.2], [-1.2, "
                "-0.32153903091734727]]",
                "names = { side2 = \"rim\", side3 = \"rim\", side4 = \"base\", side5 = \"rim\", side6 = \"rim\" }\n"),
        "\"rim\"");
    {
        Kolosov k;  // half of a body with a crack along y = 0, x < 0
        k.plane_strain = true;
        k.phi = {{1, 0, 0.5}, {0.3, 0, 1.5}};
        k.psi = {{0.5, 0, 0.5}, {-0.15, 0, 1.5}};
        // psi' = -z Z'/2 with phi' = Z/2: of z^n in phi, (1 - n) z^n in psi
        k.psi[1].re = 0.3 * (1 - 1.5);
        const auto f = k.formulas();
        // at theta = 0: 2 G ux = sum of (kappa - n) c r^n - psi
        const double shear = 1000 / 2.6, kappa = 3 - 4 * 0.3,
                     crack_ux = ((kappa - 0.5 - 0.5) * std::sqrt(1.5) +
                                 ((kappa - 1.5) * 0.3 - k.psi[1].re) * std::pow(1.5, 1.5)) /
                                (2 * shear);
        add("crack, half", 0.4, f,
            start(f, "strain") +
                "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [1.5, 0], [1.5, 1.5], [-1.5, 1.5], [-1.5, "
                "0]]\nnames "
                "= { side1 = \"ligament\", side2 = \"rim\", side3 = \"rim\", side4 = \"rim\" }\n" +
                steel() + "[support.mirror]\non = \"ligament\"\nhold = \"symmetry\"\n" +
                fmt::format("[support.pin]\nat = [1.5, 0]\nux = {:.17g}\n", crack_ux) + tractions("\"rim\"") +
                quantity("ahead", "syy", at(0.5, 0.2)) + quantity("above", "sxx", at(-0.3, 0.5)) +
                quantity("opens", "uy", at(-1, 0)) + energy + quantity("pull", "reaction_y", "on = \"mirror\""),
            "", {{"energy", NAN}});
    }
    {
        Kolosov k;
        k.exp_factor = 1;
        k.exp_rate = 1.2;
        k.phi = {{0.2, 0.4, 3}};
        k.psi = {{-0.3, 0.2, 4}};
        const auto f = k.formulas();
        add("exponential field, six sides", 0.5, f,
            start(f, "stress") +
                polygon("[[0, 0], [1.5, -0.3], [2.2, 0.6], [1.7, 1.6], [0.5, 1.9], [-0.4, 1]]",
                        "names = { side1 = \"base\", side2 = \"rim\", side3 = \"rim\", side4 = \"rim\", side5 = "
                        "\"rim\", side6 = \"rim\" }\n") +
                steel() + held_as_known("base", "base") + tractions("\"rim\"") +
                quantity("peak", "von_mises", on("rim")) + quantity("inner", "sxx", at(0.9, 0.8)) +
                quantity("edge", "syy", mean("rim")) + quantity("move", "uy", at(1.2, 1.1)) +
                quantity("force", "reaction_x", "dual = true") + energy);
    }
    {
        Kolosov k;
        k.phi = {{1, 0.5, -1}, {0.4, 0, -2}};
        k.psi = {{0.7, -0.2, -2}};
        const auto f = k.formulas();
        add("beside a pole", 0.4, f,
            start(f, "stress") +
                rectangle("add", 0.8, -1, 2, 2,
                          "names = { left = \"near\", right = \"rim\", top = \"rim\", bottom = \"rim\" }\n") +
                steel() + pinned_as_known({{2.8, -1}}, {{2.8, 1}}, f) + tractions("[\"rim\", \"near\"]") +
                quantity("peak", "max_principal", on("near")) + quantity("least", "min_principal", on("near")) +
                quantity("inner", "sxy", at(1.3, 0.2)) + quantity("move", "ux", at(1, 0)) +
                quantity("moves", "ux", mean("near")) + energy,
            "near");
    }
    {
        Kolosov k;
        k.phi = {{0.1, 0.05, 5}, {-0.3, 0.2, 2}};
        k.psi = {{0.2, 0.1, 4}, {0.3, 0, 3}};
        k.plane_strain = true;
        k.poissons_ratio = 0.45;
        const auto f = k.formulas();
        add("polynomial of degree five, disc", 0.4, f,
            start(f, "strain") + disc("add", 0.3, 0.2, 1.2, "rim") +
                "[[part.shape]]\nmark = \"point\"\nat = [0.3, 0.2]\nname = \"a\"\n[[part.shape]]\nmark = \"point\"\nat "
                "= [0.9, 0.2]\nname = \"b\"\n" +
                steel(1000, 0.45) + pinned_as_known({{0.3, 0.2}}, {{0.9, 0.2}}, f) + tractions("\"rim\"") +
                quantity("peak", "von_mises", on("rim")) + quantity("inner", "syy", at(0.7, -0.4)) +
                quantity("thick", "szz", at(0.2, 0.9)) + quantity("move", "uy", mean("rim")) + energy);
    }
    for (const auto& [a, b] : {std::pair{1.0, 2.0}, {10.0, 10.5}}) {
        const double l = std::log(b / a), n = (b * b - a * a) * (b * b - a * a) - 4 * a * a * b * b * l * l;
        const std::string
            srr = fmt::format(
                "-4 / {3:.17g} * ({0}^2 * {1}^2 / r^2 * {2:.17g} + {1}^2 * ln(r / {1}) + {0}^2 * ln({0} / r))", a, b, l,
                n),
            stt = fmt::format(
                "-4 / {3:.17g} * (-({0}^2) * {1}^2 / r^2 * {2:.17g} + {1}^2 * ln(r / {1}) + {0}^2 * ln({0} / r) + "
                "{1}^2 - {0}^2)",
                a, b, l, n);
        const auto f = from_polar(srr, stt, "0");
        add(fmt::format("curved bar bent, radius {} to {}", a, b), 0.5 * (b - a), f,
            start(f, "stress") + quarter_ring(a, b) + steel() +
                "[support.y]\non = \"y_zero\"\nhold = \"symmetry\"\n[support.pin]\nat = [" + fmt::format("{}", a) +
                ", 0]\nux = 0\n" + tractions("\"x_zero\"") + quantity("peak", "stt", on("inside")) +
                quantity("least", "stt", on("outside", "take = \"minimum\"")) +
                quantity("shell", "von_mises", at(0.6 * (a + b) / 2, 0.8 * (a + b) / 2)) +
                quantity("outer", "stt", mean("outside")),
            "inside");
    }
    {
        const auto f = from_polar("-2 * cos(theta) / (0.7853981633974483 + 0.5) / r", "0", "0");  // wedge of 90 degrees
        add("wedge under a force at its tip", 0.5, f,
            start(f, "stress") + disc("add", 0, 0, 3, "far") + disc("cut", 0, 0, 0.8, "near") +
                polygon("[[0, 0], [4, -4], [8, 0], [4, 4]]", "")
                    .replace(0, std::string("[[part.shape]]\nadd").size(), "[[part.shape]]\nintersect") +
                steel() +
                "[support.pin]\nat = [2.1213203435596424, -2.1213203435596424]\nux = 0\nuy = 0\n[support.roller]\nat = "
                "[2.1213203435596424, 2.1213203435596424]\nux = 0\n" +
                tractions("[\"near\", \"far\"]") + quantity("peak", "min_principal", on("near")) +
                quantity("inner", "sxx", at(1.5, 0.3)) + quantity("shear", "max_shear", at(1, -0.5)) +
                path("cut", 1.5, -1.5, 1.5, 1.5) + quantity("force", "section_force_x", "along = \"cut\"\ndual = true"),
            "near");
    }
    for (const bool solid : {false, true}) {
        // Timoshenko & Goodier art. 32: density 1, speed 10
        const double nu = 0.3, a = solid ? 0 : 0.5, b = 1.5, q = 100.0, e = 1000;
        const std::string srr = solid ? fmt::format("{} * ({} - r^2)", q * (3 + nu) / 8, b * b)
                                      : fmt::format("{} * ({} - {} / r^2 - r^2)", q * (3 + nu) / 8, a * a + b * b,
                                                    a * a * b * b),
                          stt = solid ? fmt::format("{} * {} - {} * r^2", q * (3 + nu) / 8, b * b, q * (1 + 3 * nu) / 8)
                                      : fmt::format("{0} * ({1} + {2} / r^2) - {3} * r^2", q * (3 + nu) / 8,
                                                    a * a + b * b, a * a * b * b, q * (1 + 3 * nu) / 8);
        auto f = from_polar(srr, stt, "0");
        f.emplace_back("ux", fmt::format("x / {} * (({}) - {} * ({}))", e, stt, nu, srr));
        f.emplace_back("uy", fmt::format("y / {} * (({}) - {} * ({}))", e, stt, nu, srr));
        const std::string shape =
            solid ? disc("add", 0, 0, b, "outside") +
                        rectangle("intersect", 0, 0, b, b, "names = { left = \"x_zero\", bottom = \"y_zero\" }\n")
                  : quarter_ring(a, b);
        add(solid ? "disc, whole, spinning" : "disc with a bore, spinning", 0.4, f,
            "format = 1\n[part]\nplane = \"stress\"\n" + shape +
                "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\ndensity = 1\n" + symmetric_quarter() +
                "[load.spin]\nrotation = 10\nabout = [0, 0]\n" +
                (solid ? quantity("centre", "sxx", at(0, 0)) : quantity("peak", "stt", on("inside"))) +
                quantity("rim", "stt", mean("outside")) + quantity("grow", "ur", on("outside")) +
                quantity("middle", "srr", at(0.6, 0.5)) + quantity("held", "reaction_x", "on = \"x\""),
            solid ? "" : "inside");
    }
    {
        // Layers, one ten times as stiff: pressure from inside, plane strain.
        const double a = 1, c = 1.4, b = 2, nu = 0.3, e1 = 10000, e2 = 1000;
        const auto compliance = [&](double e, double ri, double ro, double pi, double po, double r) {
            const double mean = (pi * ri * ri - po * ro * ro) / (ro * ro - ri * ri),
                         fall = (pi - po) * ri * ri * ro * ro / (ro * ro - ri * ri);
            return (1 + nu) / e * ((1 - 2 * nu) * mean * r + fall / r);
        };
        // u_inner(c) at contact pressure q equals u_outer(c): linear in q
        const double u0 = compliance(e1, a, c, 1, 0, c), u1 = compliance(e1, a, c, 0, 1, c),
                     w1 = compliance(e2, c, b, 1, 0, c);
        const double q = u0 / (w1 - u1);
        const auto f =
            inside_outside(c, lame(a, c, 1, q, true, nu, e1).formulas(), lame(c, b, q, 0, true, nu, e2).formulas());
        add("rings of two materials, pressed", 0.3, f,
            start(f, "strain").append("name = \"outer\"\n") + disc("add", 0, 0, b, "outside") +
                "[[part.shape]]\nadd = \"circle\"\nradius = 1.4\nregion = \"core\"\n" + disc("cut", 0, 0, a, "inside") +
                rectangle("intersect", 0, 0, b, b, "names = { left = \"x_zero\", bottom = \"y_zero\" }\n") +
                "[material.core]\non = \"core\"\nyoungs_modulus = 10000\npoissons_ratio = 0.3\n[material.outer]\non = "
                "\"outer\"\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n" +
                symmetric_quarter() + "[load.p]\non = \"inside\"\npressure = 1\n" +
                quantity("peak", "stt", on("inside")) + quantity("outer_hoop", "stt", mean("outside")) +
                quantity("grow", "ur", on("inside")) + energy + quantity("between", "srr", at(1.0, 1.1)) +
                quantity("stiff", "von_mises", at(0.8, 0.85)),
            "inside");
    }
    {
        // Open ends: the mean stress along the axis is 0; pressure inside.
        auto k = lame(1, 2, 1, 0, true, 0.3);
        auto f = k.formulas();
        f.pop_back();
        const double ezz = -2 * 0.3 / 3 / 1000;  // szz = 0, sxx + syy = 2 / 3
        for (auto& [name, text] : f) {
            // plane strain less the axial stress that is released: ux gains -nu ezz x
            if (name == "ux") text = fmt::format("({}) - 0.3 * ({:.17g}) * x", text, ezz);
            if (name == "uy") text = fmt::format("({}) - 0.3 * ({:.17g}) * y", text, ezz);
        }
        f.emplace_back("szz", "0");
        add("tube with free ends, pressed", 0.4, f,
            start(f, "generalised_strain") + quarter_ring(1, 2) + steel() + symmetric_quarter() +
                "[load.p]\non = \"inside\"\npressure = 1\n" + quantity("peak", "stt", on("inside")) +
                quantity("mises", "von_mises", at(1.1, 0.4)) + quantity("grow", "ux", at(2, 0)) +
                quantity("grows", "ur", mean("inside")) + quantity("shortens", "ezz", at(1.2, 0.8)),
            "inside", {{"shortens", ezz}});
    }
    {
        const auto f = free_hole(0.3, 0.5, {-0.2, 0.3, 0}, false, 0.25).formulas();
        add("hole beside an edge, formula loads", 0.4, f,
            start(f, "stress") + rectangle("add", -0.7, -1, 2.2, 2, "name = \"rim\"\n") +
                disc("cut", 0, 0, 0.3, "hole") + steel(1000, 0.25) + pinned_as_known({{1.5, -1}}, {{1.5, 1}}, f) +
                tractions("\"rim\"") + quantity("peak", "von_mises", on("hole")) +
                quantity("first", "max_principal", on("hole")) + quantity("between", "syy", at(-0.5, 0.1)) +
                quantity("move", "uy", at(-0.7, 1)) + path("ligament", -0.7, 0, -0.3, 0) +
                quantity("membrane", "syy", along("ligament", "membrane")) +
                quantity("linear", "syy", along("ligament", "linearised")) + energy,
            "hole");
    }
    {
        const auto f = corner_field(M_PI * 0.625, true, false).formulas();  // a mild corner of 225 degrees
        add("corner of 225 degrees, opening", 0.4, f,
            start(f, "stress") +
                polygon("[[0, 0], [-0.5740251485476346, 1.3858192987669302], [1.3, 1.3], [1.3, -1.3], "
                        "[-0.5740251485476346, -1.3858192987669302]]",
                        "names = { side2 = \"rim\", side3 = \"base\", side4 = \"rim\" }\n") +
                steel() + held_as_known("base", "base") + tractions("\"rim\"") +
                quantity("stress", "syy", at(0.6, 0.3)) + quantity("near", "von_mises", at(0.15, 0.1)) +
                quantity("move", "uy", at(0.5, 1.1)) + energy + quantity("rim_mean", "sxx", mean("rim")));
    }
    return out;
}

}  // namespace dotsift::bench
