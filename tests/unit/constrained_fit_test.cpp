// Recovery by patches: what it must show exactly, and how well estimates made with it agree with the true error.

#include "recovery/fit/constrained_fit.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>

#include "recovery/estimate.hpp"
#include "recovery/fit/singular_fit.hpp"
#include "support/solved.hpp"
#include "verification/manufactured.hpp"
#include "verification/verification.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Opened {
    StudyAndPart both;
    Mesh mesh;
    Laws laws;
};

Opened opened(const std::string& body) {
    Opened o;
    Problems problems("test.toml");
    o.both = open_study("test.toml", "format = 1\n" + body, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    o.mesh = generate(o.both.part, sizing_of(o.both.part, o.both.study.sizes, "."), 100000, o.both.study.mesh);
    o.laws = laws_of(o.both.study, o.mesh.region_names);
    return o;
}

const std::string square =
    "[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, 0]\nsize = [1, 1]\nnames = { left = \"all\", right = \"all\", "
    "top = \"all\", bottom = \"all\" }\n";

/// Estimated over true error on the second of two meshes.
double effectivity(const std::string& text, const std::string& elements) {
    Problems problems("test.toml");
    const StudyAndPart both = open_study("test.toml", text + elements + "[quantity.u]\nof = \"ux\"\n", problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    const Mesh mesh =
        generate(both.part, sizing_of(both.part, both.study.sizes, ".").scaled(0.5), 100000, both.study.mesh);
    const Laws laws = laws_of(both.study, mesh.region_names);
    const Solution s = solve_study(mesh, both.study);
    const auto fits = singular_fits(mesh, laws, s, singular_points(both.part, both.study),
                                    same_point_share * both.part.box.diagonal());
    const ErrorMap map = estimate_error(mesh, laws, s, recover_stress(mesh, both.study, laws, s), fits);
    return std::sqrt(map.error2 / true_error(mesh, laws, s, *both.study.exact_stress, "test.toml").error2);
}

constexpr std::array kinds{"[mesh]\nelements = \"triangles\"\norder = 1\n",
                           "[mesh]\nelements = \"triangles\"\norder = 2\n",
                           "[mesh]\nelements = \"quadrilaterals\"\norder = 1\n",
                           "[mesh]\nelements = \"quadrilaterals\"\norder = 2\n",
                           "[mesh]\nelements = \"mostly_quadrilaterals\"\norder = 1\n",
                           "[mesh]\nelements = \"mostly_quadrilaterals\"\norder = 2\n"};

}  // namespace

TEST_SUITE_BEGIN("recovery");

TEST_CASE("derivatives of monomials agree with differences") {
    const Vec2 p{{0.7, -0.4}}, c{{0.2, 0.1}};
    const double h = 1e-5;
    for (const int degree : {2, 3, 4}) {
        const auto at = [&](double dx, double dy) { return Monomials(degree, p + Vec2{{dx, dy}}, c, 0.8); };
        const Monomials m = at(0, 0), x1 = at(h, 0), x0 = at(-h, 0), y1 = at(0, h), y0 = at(0, -h);
        std::array<std::array<double, Monomials::most>, 3> second{};
        each_second_derivative(degree, 0.8, [&](std::size_t which, int k, int from, double factor) {
            second[which][static_cast<std::size_t>(k)] = factor * m.value[static_cast<std::size_t>(from)];
        });
        CHECK(m.count == Monomials::terms(degree));
        for (std::size_t k = 0; k < static_cast<std::size_t>(m.count); ++k) {
            CHECK(m.x[k] == doctest::Approx((x1.value[k] - x0.value[k]) / (2 * h)).epsilon(1e-7));
            CHECK(m.y[k] == doctest::Approx((y1.value[k] - y0.value[k]) / (2 * h)).epsilon(1e-7));
            CHECK(second[0][k] == doctest::Approx((x1.x[k] - x0.x[k]) / (2 * h)).epsilon(1e-7));
            CHECK(second[1][k] == doctest::Approx((y1.x[k] - y0.x[k]) / (2 * h)).epsilon(1e-7));
            CHECK(second[2][k] == doctest::Approx((y1.y[k] - y0.y[k]) / (2 * h)).epsilon(1e-7));
        }
    }
}

TEST_CASE(
    "a displacement one degree above linear elements and two above quadratic ones is recovered exactly, on the outline "
    "too") {
    // u = grad of the real part of a power of x + i y: without volume change and rotation, so that no forces act.
    for (std::size_t k = 0; k < kinds.size(); ++k) {
        CAPTURE(kinds[k]);
        for (const std::string plane : {"stress", "strain"}) {
            const auto o = opened("[part]\nplane = \"" + plane + "\"\n" + square +
                                  "[material.m]\nyoungs_modulus = 200\npoissons_ratio = 0.3\n[support.a]\non = "
                                  "\"all\"\nhold = \"fixed\"\n[load.b]\nbody_force = [0, 0]\n[size]\nglobal = "
                                  "0.3\n[quantity.u]\nof = \"ux\"\n" +
                                  kinds[k]);
            const bool quadratic = k % 2 == 1;  // the elements
            Solution s;
            for (const Vec2& p : o.mesh.nodes) {
                const double x = p[0], y = p[1];
                s.displacement.push_back(quadratic ? Vec2{{x * x * x * x - 6 * x * x * y * y + y * y * y * y,
                                                           4 * x * y * y * y - 4 * x * x * x * y}}
                                                   : Vec2{{x * x - y * y, -2 * x * y}});
            }
            const auto recovered = recover_stress(o.mesh, o.both.study, o.laws, s);
            double worst = 0;
            const auto compare = [&](const Vec2& p, const Stress& found) {
                const double x = p[0], y = p[1];
                const double exx = quadratic ? 4 * x * x * x - 12 * x * y * y : 2 * x,
                             gxy = quadratic ? 8 * y * y * y - 24 * x * x * y : -4 * y;
                const Stress exact = o.laws.of(0).elastic.stress({exx, -exx, gxy, 0});
                for (std::size_t c = 0; c < 4; ++c) worst = std::max(worst, std::fabs(found[c] - exact[c]));
            };
            for (std::size_t n = 0; n < o.mesh.nodes.size(); ++n) compare(o.mesh.nodes[n], recovered.slots[n]);
            for (std::size_t e = 0; e < o.mesh.element_count() && quadratic; ++e)
                for (const auto& q : quadrature(o.mesh.kinds[e], 4)) {
                    const ElementPoint p = evaluate(o.mesh.kinds[e], o.mesh.positions(e), q.xi);
                    compare(p.position, recovered.at(o.mesh, o.laws, s, e, p));
                }
            CHECK(worst < 1e-6 * 200);
        }
    }
}

TEST_CASE("thermal strain that is free, and weight in a column, are recovered exactly") {
    for (const char* kind : kinds) {
        CAPTURE(std::string(kind));
        // A free part stays without stress where the temperature is a linear function.
        const auto hot = solve_cases_of(
            "[part]\n" + square +
            "[material.m]\nyoungs_modulus = 200\npoissons_ratio = 0.3\nexpansion = 1e-3\n[support.pin]\nat = [1, "
            "0]\nhold = \"fixed\"\n[support.guide]\nat = [2, 0]\nuy = 0\n[load.t]\ntemperature_change = \"4 + x - 2 * "
            "y\"\n[size]\nglobal = 0.3\n[quantity.u]\nof = \"ux\"\n" +
            std::string(kind));
        const bool quadratic = std::string(kind).find("order = 2") != std::string::npos;
        double largest = 0;
        for (const auto& t : hot.cases[0].stress.slots)
            for (const double v : t) largest = std::max(largest, std::fabs(v));
        CHECK(largest < (quadratic ? 1e-9 : 0.05) * 200 * 1e-3 * 4);
        const auto column = solve_cases_of(
            "[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [1, 3]\nnames = { bottom = \"foot\", left = "
            "\"sides\", "
            "right = \"sides\" }\n[material.m]\nyoungs_modulus = 200\npoissons_ratio = 0\ndensity = "
            "2\n[support.foot]\non "
            "= \"foot\"\nhold = \"fixed\"\n[load.g]\ngravity = [0, -10]\n[size]\nglobal = 0.4\n[quantity.u]\nof = "
            "\"ux\"\n" +
            std::string(kind));
        double worst = 0;
        for (std::size_t n = 0; n < column.mesh.nodes.size(); ++n)
            worst = std::max(worst, std::fabs(column.cases[0].stress.slots[n][1] + 20 * (3 - column.mesh.nodes[n][1])));
        CHECK(worst < (quadratic ? 1e-7 : 0.8));
    }
}

TEST_CASE("a ring that expands more round its axis than along its radius: the heat's own share of the balance") {
    // Without lateral contraction the balance is r u'' + u' - u / r = K with K = (a_r - a_t) T, so that
    // u = A r + B / r + K / 2 r ln r.
    const double young = 1000, change = 50, radial = 1e-4, hoop = 5e-4, inner = 1, outer = 2;
    const double k = (radial - hoop) * change;
    const auto rising = [&](double r) { return k / 2 * (std::log(r) + 1) - radial * change; };
    const double b = (rising(inner) - rising(outer)) / (1 / (inner * inner) - 1 / (outer * outer));
    const double a = b / (inner * inner) - rising(inner);
    const auto s = solve_cases_of(fmt::format(
        "[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, 0]\nsize = [1, "
        "0.5]\nnames = {{ bottom = \"flat\", top = \"flat\" }}\n[material.m]\nmoduli = [{0}, {0}, "
        "{0}]\npoissons_ratios = [0, 0, 0]\nshear_modulus = {1}\nexpansion = [{2}, 0, {3}]\n[support.flat]\non = "
        "\"flat\"\nuy = 0\n[load.t]\ntemperature_change = {4}\n[size]\nglobal = 0.25\n[quantity.u]\nof = \"ux\"\n",
        young, young / 2, radial, hoop, change));
    double worst = 0;
    for (std::size_t slot = 0; slot < s.mesh.node_of_slot.size(); ++slot) {
        const double r = s.mesh.nodes[static_cast<std::size_t>(s.mesh.node_of_slot[slot])][0];
        const auto& found = s.cases[0].stress.slots[slot];
        worst = std::max(worst, std::fabs(found[0] - young * (a - b / (r * r) + rising(r))));
        worst = std::max(worst, std::fabs(found[3] - young * (a + b / (r * r) + k / 2 * std::log(r) - hoop * change)));
    }
    CHECK(worst < 1e-3 * young * hoop * change);
}

TEST_CASE("the estimate agrees with the true error on smooth problems from the second mesh on") {
    const Manufactured m = manufactured_elasticity(Plane::strain, ManufacturedMaterial::isotropic);
    const Manufactured wood = manufactured_elasticity(Plane::stress, ManufacturedMaterial::orthotropic);
    const Manufactured round = manufactured_elasticity(Plane::axisymmetric, ManufacturedMaterial::isotropic);
    for (const char* kind : kinds) {
        CAPTURE(std::string(kind));
        for (const auto* known : {&m, &wood, &round}) {
            const double ratio = effectivity(known->text + one_square() + "[size]\nglobal = 0.25\n", kind);
            CHECK(ratio > 0.97);
            CHECK(ratio < 1.03);
        }
    }
}

TEST_CASE("and round a hole, whose stress no polynomial follows") {
    // Kirsch's stress of a pulled plate, on the rim of a quarter of it
    const std::string hole =
        "format = 1\n[variables]\nc2 = \"cos(2 * theta)\"\nq = \"1 / r^2\"\n"
        "srr = \"0.5 * (1 - q) + 0.5 * (1 - 4 * q + 3 * q^2) * c2\"\n"
        "stt = \"0.5 * (1 + q) - 0.5 * (1 + 3 * q^2) * c2\"\n"
        "srt = \"-0.5 * (1 + 2 * q - 3 * q^2) * sin(2 * theta)\"\n"
        "sxx = \"srr * cos(theta)^2 + stt * sin(theta)^2 - srt * sin(2 * theta)\"\n"
        "syy = \"srr * sin(theta)^2 + stt * cos(theta)^2 + srt * sin(2 * theta)\"\n"
        "sxy = \"(srr - stt) * sin(theta) * cos(theta) + srt * c2\"\n"
        "[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 4]\n"
        "names = { left = \"x_zero\", bottom = \"y_zero\", right = \"rim\", top = \"rim\" }\n"
        "[[part.shape]]\ncut = \"circle\"\nradius = 1\n"
        "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n"
        "[support.x]\non = \"x_zero\"\nhold = \"symmetry\"\n[support.y]\non = \"y_zero\"\nhold = \"symmetry\"\n"
        "[load.rim]\non = \"rim\"\ntraction = [\"sxx * nx + sxy * ny\", \"sxy * nx + syy * ny\"]\n"
        "[exact_stress]\nsxx = \"sxx\"\nsyy = \"syy\"\nsxy = \"sxy\"\n[size]\nglobal = 0.5\n";
    for (const char* kind : {kinds[0], kinds[1], kinds[3]}) {
        CAPTURE(std::string(kind));
        const double ratio = effectivity(hole, kind);
        CHECK(ratio > 0.97);
        CHECK(ratio < 1.03);
    }
}

TEST_CASE("and where a corner is singular") {
    for (const char* kind : kinds) {
        CAPTURE(std::string(kind));
        const double ratio = effectivity(l_shape().text, kind);
        CHECK(ratio > 0.9);
        CHECK(ratio < 1.1);
    }
}

TEST_CASE("elements that are too large for a corner's modes are not judged by them") {
    // Both clamped corners are weak beside the notch. The truth is the energy of a mesh eight times as fine.
    const auto solved = [](double size) {
        return opened(
            fmt::format("[[part.shape]]\nadd = \"rectangle\"\nsize = [8, 3]\nnames = {{ left = \"left\", right "
                        "= \"right\" }}\n[[part.shape]]\ncut = \"slot\"\nfrom = [3, 3]\nto = [3, 2]\nwidth = "
                        "0.6\nname = \"notch\"\n[material.m]\nyoungs_modulus = 200\npoissons_ratio = "
                        "0.3\n[support.a]\non = \"left\"\nhold = \"fixed\"\n[load.b]\non = "
                        "\"right\"\ntraction = [1, 0]\n[size]\nglobal = {0}\n[size.local.n]\non = "
                        "\"notch\"\nsize = {1}\n[quantity.u]\nof = \"ux\"\n",
                        size, size / 2));
    };
    const auto estimated = [](const Opened& o) {
        const Solution s = solve_study(o.mesh, o.both.study);
        const auto fits = singular_fits(o.mesh, o.laws, s, singular_points(o.both.part, o.both.study),
                                        same_point_share * o.both.part.box.diagonal());
        return estimate_error(o.mesh, o.laws, s, recover_stress(o.mesh, o.both.study, o.laws, s), fits);
    };
    const ErrorMap fine = estimated(solved(0.075));
    for (const double size : {0.6, 0.3}) {
        CAPTURE(size);
        const ErrorMap map = estimated(solved(size));
        const double ratio = std::sqrt(map.error2 / (fine.energy2 + fine.error2 - map.energy2));
        CHECK(ratio > 0.9);
        CHECK(ratio < 1.1);
    }
}

TEST_SUITE_END();
