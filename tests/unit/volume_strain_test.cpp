// Nearly incompressible materials: projected volume strain, bubbles that are eliminated inside of triangles.

#include "solve/material/volume_strain.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>

#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

std::string block(const std::string& plane, const std::string& elements, const std::string& rest, double nu = 0.4999) {
    return fmt::format(
               "[part]\nplane = \"{}\"\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, 0]\nsize = [2, 1]\nnames = "
               "{{ left "
               "= \"left\", right = \"right\", top = \"top\", bottom = \"bottom\" "
               "}}\n[material.rubber]\nyoungs_modulus = "
               "6\npoissons_ratio = {}\nexpansion = 2e-4\ndensity = 1.1\n[mesh]\nelements = \"{}\"\n[size]\nglobal = "
               "0.35\n[quantity.energy]\nof = \"strain_energy\"\n",
               plane, nu, elements) +
           rest;
}

const std::string enclosed =
    "[support.sides]\non = [\"left\", \"right\"]\nhold = \"symmetry\"\n[support.floor]\non = \"bottom\"\nhold = "
    "\"symmetry\"\n";

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("a bubble is 1 in the middle of its triangle and 0 on its sides, curved or not") {
    const std::array<Vec2, 6> curved{{{{0, 0}}, {{2, 0}}, {{0, 1}}, {{1, -0.2}}, {{1.1, 0.6}}, {{0, 0.5}}}};
    const auto at = [&](double a, double b) {
        return bubble_at(evaluate(ElementKind::triangle6, curved, Vec2{{a, b}}));
    };
    CHECK(at(1.0 / 3, 1.0 / 3).value == doctest::Approx(1));
    for (const double t : {0.0, 0.3, 0.5, 1.0}) {
        CHECK(std::fabs(at(t, 0).value) < 1e-15);
        CHECK(std::fabs(at(0, t).value) < 1e-15);
        CHECK(std::fabs(at(t, 1 - t).value) < 1e-15);
    }
    // Its gradient, by differences along both reference axes
    const double h = 1e-6;
    const ElementPoint p = evaluate(ElementKind::triangle6, curved, Vec2{{0.2, 0.3}});
    const ElementPoint px = evaluate(ElementKind::triangle6, curved, Vec2{{0.2 + h, 0.3}}),
                       py = evaluate(ElementKind::triangle6, curved, Vec2{{0.2, 0.3 + h}});
    CHECK(bubble_at(px).value - bubble_at(p).value ==
          doctest::Approx(dot(bubble_at(p).gradient, px.position - p.position)).epsilon(1e-5));
    CHECK(bubble_at(py).value - bubble_at(p).value ==
          doctest::Approx(dot(bubble_at(p).gradient, py.position - p.position)).epsilon(1e-5));
}

TEST_CASE("only quadratic elements of such a material, in a state that keeps their volume, are projected") {
    const std::string load = enclosed + "[load.p]\non = \"top\"\npressure = 1\n";
    CHECK(!solve_cases_of(block("strain", "triangles", load)).solution().volume.empty());
    CHECK(solve_cases_of(block("stress", "triangles", load)).solution().volume.empty());
    CHECK(solve_cases_of(block("strain", "triangles", load, 0.3)).solution().volume.empty());
}

TEST_CASE("an enclosed block under pressure, heat and its own weight has the stress that equilibrium gives it") {
    const double nu = 0.4999, e = 6, bulk = e / (3 * (1 - 2 * nu)), shear = e / (2 * (1 + nu));
    for (const std::string plane : {"strain", "generalised_strain"}) {
        for (const std::string elements : {"triangles", "quadrilaterals"}) {
            CAPTURE(plane);
            CAPTURE(elements);
            // Held on three sides; uniaxial strain yy, so that syy = (K + 4/3 G) e - 3 K alpha T. In plane strain only.
            if (plane == "strain") {
                const auto hot = solve_cases_of(
                    block(plane, elements,
                          enclosed + "[support.lid]\non = \"top\"\nhold = \"symmetry\"\n[load.heat]\n"
                                     "temperature_change = 10\n[quantity.low]\nof = \"syy\"\ntake = "
                                     "\"minimum\"\n[quantity.high]\nof = \"sxx\"\ntake = \"maximum\"\n"));
                CHECK(hot.value("low") == doctest::Approx(-3 * bulk * 2e-4 * 10).epsilon(1e-8));
                CHECK(hot.value("high") == doctest::Approx(-3 * bulk * 2e-4 * 10).epsilon(1e-8));
                const auto pressed = solve_cases_of(
                    block(plane, elements,
                          enclosed + "[load.p]\non = \"top\"\npressure = 3\n[quantity.sink]\nof = \"uy\"\ntake = "
                                     "\"minimum\"\n[quantity.side]\nof = \"sxx\"\ntake = \"mean\"\n"));
                CHECK(pressed.value("sink") == doctest::Approx(-3 / (bulk + 4.0 / 3 * shear)).epsilon(1e-9));
                CHECK(pressed.value("side") ==
                      doctest::Approx(-3 * (bulk - 2.0 / 3 * shear) / (bulk + 4.0 / 3 * shear)).epsilon(1e-9));
            }
            // Weight: syy = -rho g (1 - y), linear, so that both elements show it exactly.
            const auto heavy = solve_cases_of(
                block(plane, elements,
                      enclosed + "[load.weight]\ngravity = [0, -10]\n[quantity.foot]\nof = \"syy\"\nfrom = "
                                 "\"elements\"\ntake = \"minimum\"\n[quantity.head]\nof = \"syy\"\nfrom = "
                                 "\"elements\"\ntake = \"maximum\"\n[quantity.push]\nof = \"reaction_y\"\non = "
                                 "\"floor\"\n"));
            CHECK(heavy.value("foot") == doctest::Approx(-11).epsilon(1e-6));
            CHECK(std::fabs(heavy.value("head")) < 1e-5);
            CHECK(heavy.solution().balance.relative_error < 1e-10);
        }
    }
}

TEST_CASE("a ring of revolution that is heated evenly and free has no stress, nearly incompressible or not") {
    for (const std::string elements : {"triangles", "quadrilaterals"}) {
        const auto s = solve_cases_of(
            block("axisymmetric", elements,
                  "[support.floor]\non = \"bottom\"\nhold = \"symmetry\"\n[load.heat]\ntemperature_change = "
                  "50\n[quantity.mises]\nof = \"von_mises\"\n[quantity.rim]\nof = \"ux\"\non = \"right\"\ntake = "
                  "\"mean\"\n"));
        CHECK(s.value("mises") < 1e-8);
        CHECK(s.value("rim") == doctest::Approx(3 * 2e-4 * 50).epsilon(1e-9));
    }
}

TEST_CASE("the iteration agrees with the factor where volume strains are projected") {
    const auto with = [](const std::string& method) {
        return solve_cases_of(block("strain", "triangles",
                                    "[support.w]\non = \"left\"\nhold = \"fixed\"\n[load.p]\non = \"top\"\npressure = "
                                    "0.01\n[solver]\nmethod = \"" +
                                        method + "\"\n",
                                    0.49));
    };
    const auto direct = with("direct"), iterated = with("iterative");
    CHECK(iterated.solution().solver.steps > 0);
    CHECK(iterated.solution().strain_energy == doctest::Approx(direct.solution().strain_energy).epsilon(1e-7));
}

TEST_SUITE_END();
