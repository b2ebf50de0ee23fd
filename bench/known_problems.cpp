#include "known_problems.hpp"

#include <fmt/format.h>

#include <cmath>

#include "verification/verification.hpp"

namespace dotsift::bench {

namespace {

std::string ring(double a, double b) {
    return fmt::format(
        "[[part.shape]]\nadd = \"circle\"\nradius = {0}\nname = \"outside\"\n[[part.shape]]\ncut = \"circle\"\nradius "
        "= {1}\nname = \"inside\"\n[[part.shape]]\nintersect = \"rectangle\"\nsize = [{0}, {0}]\nnames = {{ left = "
        "\"x_zero\", bottom = \"y_zero\" }}\n",
        b, a);
}

const char* polar_stress =
    "[exact_stress]\nsxx = \"srr * cos(theta)^2 + stt * sin(theta)^2\"\nsyy = \"srr * sin(theta)^2 + stt * "
    "cos(theta)^2\"\nsxy = \"(srr - stt) * sin(theta) * cos(theta)\"\n";
const char* symmetric =
    "[support.x]\non = \"x_zero\"\nhold = \"symmetry\"\n[support.y]\non = \"y_zero\"\nhold = \"symmetry\"\n";

/// Two rings, one a hundred times as stiff as the other, pressed from inside.
Problem two_rings(double e1, double e2, const std::string& name) {
    const double a = 1, c = 1.5, b = 2, nu = 0.3, p = 1;
    // Plane stress; q is the pressure between the rings: equal radial displacement at c.
    const double inner_p = 2 * a * a / (c * c - a * a) / e1, inner_q = ((c * c + a * a) / (c * c - a * a) - nu) / e1,
                 outer_q = ((b * b + c * c) / (b * b - c * c) + nu) / e2;
    const double q = p * inner_p / (inner_q + outer_q);
    // s = A -+ B / r^2
    const double a1 = (p * a * a - q * c * c) / (c * c - a * a), b1 = (p - q) * a * a * c * c / (c * c - a * a),
                 a2 = q * c * c / (b * b - c * c), b2 = q * c * c * b * b / (b * b - c * c);
    Problem out;
    out.name = name;
    out.text =
        fmt::format(
            "format = 1\n[variables]\nA = \"r < {0} ? {1:.17g} : {2:.17g}\"\nB = \"r < {0} ? {3:.17g} : "
            "{4:.17g}\"\nsrr = \"A - B / "
            "r^2\"\nstt = \"A + B / r^2\"\n[part]\nname = \"outer\"\n{5}[[part.shape]]\nadd = \"circle\"\nradius = "
            "{0}\nregion = \"core\"\n[[part.shape]]\ncut = \"circle\"\nradius = {6}\nname = "
            "\"inside\"\n[[part.shape]]\n"
            "intersect = \"rectangle\"\nsize = [{7}, {7}]\nnames = {{ left = \"x_zero\", bottom = \"y_zero\" }}\n"
            "[material.core]\non = \"core\"\nyoungs_modulus = {8}\npoissons_ratio = {10}\n[material.outer]\non = "
            "\"outer\"\nyoungs_modulus = {9}\npoissons_ratio = {10}\n[load.p]\non = \"inside\"\npressure = 1\n",
            c, a1, a2, b1, b2, fmt::format("[[part.shape]]\nadd = \"circle\"\nradius = {}\n", b), a, b, e1, e2, nu) +
        symmetric + polar_stress;
    out.size = "[size]\nglobal = 0.25\n";
    return out;
}

Problem curved_wall(double a, double b) {
    const double l = std::log(b / a), n = (b * b - a * a) * (b * b - a * a) - 4 * a * a * b * b * l * l;
    Problem out;
    out.name = fmt::format("curved wall, radius {} to {}", a, b);
    out.text =
        fmt::format(
            "format = 1\n[variables]\na = {0}\nb = {1}\nL = {2:.17g}\nN = {3:.17g}\n"
            "srr = \"-4 / N * (a^2 * b^2 / r^2 * L + b^2 * ln(r / b) + a^2 * ln(a / r))\"\n"
            "stt = \"-4 / N * (-a^2 * b^2 / r^2 * L + b^2 * ln(r / b) + a^2 * ln(a / r) + b^2 - a^2)\"\n[part]\n",
            a, b, l, n) +
        ring(a, b) +
        "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.y]\non = \"y_zero\"\nhold = "
        "\"symmetry\"\n[support.pin]\nat = [" +
        fmt::format("{}", a) + ", 0]\nux = 0\n[load.couple]\non = \"x_zero\"\ntraction = [\"-stt\", 0]\n" +
        polar_stress;
    out.size = fmt::format("[size]\nglobal = {}\n", 0.5 * (b - a));
    return out;
}

Problem manufactured(const std::string& name, const Manufactured& m) {
    Problem p;
    p.name = name;
    p.text = m.text + one_square();
    p.size = "[size]\nglobal = 0.25\n";
    p.conduction = !m.potential.empty();
    p.known = m;
    return p;
}

/// Pulled plate with a hole, loaded by Kirsch's stress round its square.
Problem hole() {
    Problem p;
    p.name = "plate with a hole";
    p.text =
        std::string(
            "format = 1\n[variables]\nc2 = \"cos(2 * theta)\"\nq = \"1 / r^2\"\n"
            "srr = \"0.5 * (1 - q) + 0.5 * (1 - 4 * q + 3 * q^2) * c2\"\nstt = \"0.5 * (1 + q) - 0.5 * (1 + 3 * q^2) * "
            "c2\"\n"
            "srt = \"-0.5 * (1 + 2 * q - 3 * q^2) * sin(2 * theta)\"\n"
            "sxx = \"srr * cos(theta)^2 + stt * sin(theta)^2 - srt * sin(2 * theta)\"\n"
            "syy = \"srr * sin(theta)^2 + stt * cos(theta)^2 + srt * sin(2 * theta)\"\n"
            "sxy = \"(srr - stt) * sin(theta) * cos(theta) + srt * c2\"\n[part]\n[[part.shape]]\nadd = "
            "\"rectangle\"\nsize = [4, 4]\n"
            "names = { left = \"x_zero\", bottom = \"y_zero\", right = \"rim\", top = \"rim\" }\n[[part.shape]]\ncut = "
            "\"circle\"\nradius = 1\nname = \"hole\"\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n"
            "[load.rim]\non = \"rim\"\ntraction = [\"sxx * nx + sxy * ny\", \"sxy * nx + syy * ny\"]\n") +
        symmetric + "[exact_stress]\nsxx = \"sxx\"\nsyy = \"syy\"\nsxy = \"sxy\"\n";
    p.size = "[size]\nglobal = 0.5\n";
    return p;
}

}  // namespace

std::vector<Problem> problems() {
    using M = ManufacturedMaterial;
    std::vector<Problem> list;
    list.push_back(manufactured("smooth, plane strain", manufactured_elasticity(Plane::strain, M::isotropic)));
    list.push_back(manufactured("smooth, orthotropic", manufactured_elasticity(Plane::stress, M::orthotropic)));
    list.push_back(manufactured("smooth, axisymmetric", manufactured_elasticity(Plane::axisymmetric, M::isotropic)));
    list.push_back(manufactured("smooth, conduction", manufactured_conduction(false, false)));
    list.push_back(hole());
    Problem l;
    l.name = "L-shape";
    l.text = l_shape().text;
    list.push_back(l);
    list.push_back(two_rings(100, 1, "two rings, stiff one inside"));
    list.push_back(two_rings(1, 100, "two rings, stiff one outside"));
    list.push_back(curved_wall(1, 2));
    list.push_back(curved_wall(10, 10.5));
    return list;
}

}  // namespace dotsift::bench
