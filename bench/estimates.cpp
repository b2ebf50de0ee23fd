// Effectivity of the error estimates on problems whose stress is known: dotsift-estimates [WORD [LEVELS]]
// Each level shows its elements, the true error, and three estimates over it: recovery, residuals, and the bound.

#include <fmt/format.h>

#include <cmath>
#include <optional>
#include <string>
#include <vector>

#include "mesh/generate.hpp"
#include "part/check_study.hpp"
#include "quality/make_mesh.hpp"
#include "recovery/admissible.hpp"
#include "recovery/estimate.hpp"
#include "recovery/indicators.hpp"
#include "recovery/recover.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"
#include "verification/manufactured.hpp"
#include "verification/norms.hpp"
#include "verification/verification.hpp"

namespace {

using namespace dotsift;

struct Problem {
    std::string name, text, size;
    bool conduction = false;
    Manufactured known;
};

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

}  // namespace

int main(int argc, char** argv) {
    const std::string only = argc > 1 ? argv[1] : "";
    const int levels = argc > 2 ? std::atoi(argv[2]) : 4;
    constexpr std::array kinds{std::pair{"T3", "[mesh]\nelements = \"triangles\"\norder = 1\n"},
                               std::pair{"T6", "[mesh]\nelements = \"triangles\"\norder = 2\n"},
                               std::pair{"Q4", "[mesh]\nelements = \"quadrilaterals\"\norder = 1\n"},
                               std::pair{"Q9", "[mesh]\nelements = \"quadrilaterals\"\norder = 2\n"}};
    for (const auto& p : problems()) {
        if (p.name.find(only) == std::string::npos) continue;
        for (const auto& [kind, mesh_keys] : kinds) {
            Problems faults("bench");
            const auto both = open_study(
                "bench",
                p.text + p.size + mesh_keys + "[quantity.e]\nof = \"" + (p.conduction ? "potential" : "ux") + "\"\n",
                faults);
            faults.throw_if_any();
            const Sizing base = sizing_of(both.part, both.study.sizes, ".");
            fmt::print("{:32} {}", p.name, kind);
            for (int k = 0; k < levels; ++k) {
                MeshingLog log;
                const Mesh mesh = make_mesh(both.study, both.part, base.scaled(std::pow(0.5, k)), log).mesh;
                const Laws laws = laws_of(both.study, mesh.region_names);
                const Solution s = solve_study(mesh, both.study);
                double estimated, truth, norm;
                const bool bounded = why_no_bound(both.study, mesh, laws).empty();
                std::optional<ErrorMap> bound;
                ErrorMap residual;
                if (p.conduction) {
                    const ErrorMap map = estimate_flux_error(mesh, laws, s, recover_flux(mesh, both.study, laws, s));
                    residual = residual_flux_error(mesh, both.study, laws, s);
                    if (bounded) bound = bound_flux_error(mesh, both.study, laws, s);
                    const ErrorNorms n = error_norms(mesh, both.study, laws, s, p.known);
                    estimated = std::sqrt(map.error2);
                    norm = std::sqrt(map.energy2 / (1 - n.energy * n.energy));
                    truth = n.energy * norm;
                } else {
                    const ErrorMap map = estimate_error(mesh, laws, s, recover_stress(mesh, both.study, laws, s));
                    residual = residual_stress_error(mesh, both.study, laws, s);
                    if (bounded) bound = bound_stress_error(mesh, both.study, laws, s);
                    const TrueError t = true_error(mesh, laws, s, *both.study.exact_stress, "bench");
                    estimated = std::sqrt(map.error2);
                    truth = std::sqrt(t.error2);
                    norm = std::sqrt(t.energy2);
                }
                fmt::print("  {:6} {:7.3f} % {:.3f} {:.2f} {:.3f}", mesh.element_count(), 100 * truth / norm,
                           estimated / truth, std::sqrt(residual.error2) / truth,
                           bound ? std::sqrt(bound->error2) / truth : NAN);
            }
            fmt::print("\n");
        }
    }
    return 0;
}
