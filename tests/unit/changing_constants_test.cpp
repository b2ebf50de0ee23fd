// Thickness that changes from place to place, and constants of materials that change with the temperature, against
// answers that can be written down and against each other.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <fstream>

#include "base/errors.hpp"
#include "recovery/estimate.hpp"
#include "recovery/indicators.hpp"
#include "solve/material/thermal_strain.hpp"
#include "support/folder.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A bar from x = 0 to 4, y = 0 to 1.
const std::string bar =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nnames = { left = \"left\", right = \"right\", bottom = "
    "\"bottom\" }\n";
const std::string rolled =
    "[support.wall]\non = \"left\"\nux = 0\n[support.floor]\non = \"bottom\"\nhold = \"symmetry\"\n";
const std::string sizes = "[size]\nglobal = 0.4\n";
constexpr std::array kinds{
    "[mesh]\nelements = \"triangles\"\norder = 1\n", "[mesh]\nelements = \"triangles\"\norder = 2\n",
    "[mesh]\nelements = \"quadrilaterals\"\norder = 1\n", "[mesh]\nelements = \"quadrilaterals\"\norder = 2\n"};

bool quadratic(const char* kind) {
    return has(kind, "order = 2");
}

std::string material(const std::string& young, const std::string& nu, const std::string& rest = "") {
    return fmt::format("[material.m]\nyoungs_modulus = {}\npoissons_ratio = {}\n{}", young, nu, rest);
}

/// The largest distance of a recovered component from what it should be at the nodes, over the largest of these.
template <class Exact>
double worst_stress(const SolvedCases& s, std::size_t component, Exact exact) {
    double worst = 0, largest = 0;
    for (std::size_t slot = 0; slot < s.mesh.node_of_slot.size(); ++slot) {
        const double truth = exact(s.mesh.nodes[static_cast<std::size_t>(s.mesh.node_of_slot[slot])]);
        worst = std::max(worst, std::fabs(s.cases[0].stress.slots[slot][component] - truth));
        largest = std::max(largest, std::fabs(truth));
    }
    return worst / largest;
}

double share_of_error(const SolvedCases& s) {
    const auto& f = s.cases[0];
    return estimate_error(s.mesh, s.laws, f.solution, f.stress, {}).relative();
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("a bar whose thickness falls along it: stress, stretch, and heat that flows through it") {
    // With no lateral contraction the section force is the same everywhere, and the stress 4 (1 + x).
    const std::string tapered = "[part]\nthickness = \"2 / (1 + x)\"\n" + bar;
    for (const char* kind : kinds) {
        CAPTURE(std::string(kind));
        const bool exact = quadratic(kind);
        const auto s = solve_cases_of(tapered + material("1000", "0") + sizes + rolled +
                                      "[load.pull]\non = \"right\"\nforce = [8, 0]\n[quantity.end]\nof = \"ux\"\nat = "
                                      "[4, 0]\n[quantity.energy]\nof = \"strain_energy\"\n" +
                                      kind);
        CHECK(s.value("end") == doctest::Approx(0.048).epsilon(exact ? 1e-7 : 0.01));
        CHECK(s.value("energy") == doctest::Approx(0.5 * 8 * 0.048).epsilon(exact ? 1e-7 : 0.01));
        CHECK(worst_stress(s, 0, [](const Vec2& p) { return 4 * (1 + p[0]); }) < (exact ? 1e-5 : 0.03));
        CHECK(s.solution().balance.relative_error < 1e-9);
        CHECK(s.solution().reactions[0].force[0] == doctest::Approx(-8));
        // The residuals know what the slope of the thickness does to the balance.
        const ErrorMap residual = residual_stress_error(s.mesh, s.both.study, s.laws, s.solution());
        if (exact) CHECK(std::sqrt(residual.error2 / residual.energy2) < 1e-5);
        const auto warm = solve_cases_of(tapered + "[material.m]\nconductivity = 1000\n" + sizes +
                                         "[support.wall]\non = \"left\"\npotential = 0\n[load.in]\non = "
                                         "\"right\"\nflux = 20\n[quantity.end]\nof = \"potential\"\nat = [4, "
                                         "0.5]\n[quantity.flow]\nof = \"reaction_flow\"\n" +
                                         kind);
        CHECK(warm.value("end") == doctest::Approx(0.048).epsilon(exact ? 1e-7 : 0.01));  // 20 * 0.4 flows in
        CHECK(warm.value("flow") == doctest::Approx(-8));
        double worst = 0;
        for (std::size_t k = 0; k < warm.mesh.node_of_slot.size(); ++k)
            worst = std::max(
                worst, std::fabs(warm.cases[0].flux.slots[k][0] +
                                 4 * (1 + warm.mesh.nodes[static_cast<std::size_t>(warm.mesh.node_of_slot[k])][0])));
        CHECK(worst < 20 * (exact ? 1e-5 : 0.03));
    }
}

TEST_CASE("a thickness that is a formula in name only, or that lies at scattered points") {
    const std::string rest = material("1000", "0.3") + sizes + "[support.wall]\non = \"left\"\nhold = \"fixed\"\n" +
                             "[load.pull]\non = \"right\"\nforce = [8, 3]\n[quantity.end]\nof = \"uy\"\nat = [4, "
                             "1]\n[quantity.energy]\nof = \"strain_energy\"\n";
    for (const char* kind : kinds) {
        CAPTURE(std::string(kind));
        const auto plain = solve_cases_of("[part]\nthickness = 2\n" + bar + rest + kind),
                   named = solve_cases_of("[part]\nthickness = \"2 + 0 * x\"\n" + bar + rest + kind),
                   parts = solve_cases_of("[part]\nthickness_of = { part = \"2 + 0 * y\" }\n" + bar + rest + kind);
        for (const auto* other : {&named, &parts}) {
            CHECK(other->value("end") == doctest::Approx(plain.value("end")).epsilon(1e-9));
            CHECK(other->value("energy") == doctest::Approx(plain.value("energy")).epsilon(1e-9));
            CHECK(share_of_error(*other) == doctest::Approx(share_of_error(plain)).epsilon(1e-6));
        }
    }
    const Folder folder;
    std::ofstream(folder.path / "scan.csv") << "x,y,t\n0,0,2\n4,0,1\n4,1,1.5\n0,1,2.5\n2,0.5,1.75\n2,0,1.5\n1,1,2.25\n";
    const auto run = [&](const std::string& part) {
        Problems problems((folder.path / "study.toml").string());
        const std::string table = has(part, "scan") ? "[table.scan]\nfile = \"scan.csv\"\n" : "";
        const auto both = open_study((folder.path / "study.toml").string(),
                                     "format = 1\n" + table + "[part]\n" + part + bar + rest, problems);
        INFO(problems.text());
        REQUIRE(problems.empty());
        const Mesh mesh = generate(both.part, sizing_of(both.part, both.study.sizes, "."), 100000, both.study.mesh);
        return solve_study(mesh, both.study).strain_energy;
    };
    CHECK(run("thickness = \"scan(x, y)\"\n") ==
          doctest::Approx(run("thickness = \"2 - x / 4 + y / 2\"\n")).epsilon(1e-6));
}

TEST_CASE("a thickness that falls to nothing is told, with the place") {
    const std::string rest = material("1000", "0.3") + sizes + rolled + "[quantity.u]\nof = \"ux\"\n";
    CHECK(has(faults_of("format = 1\n[part]\nthickness = \"3 - x\"\n" + bar + rest), "but it must be greater than 0"));
    CHECK(has(faults_of("format = 1\n[part]\nthickness = \"-2\"\n" + bar + rest), "part.thickness is -2"));
    CHECK(has(faults_of("format = 1\n[part]\nthickness = \"3 - z\"\n" + bar + rest), "\"z\" in the formula"));
    CHECK(has(faults_of("format = 1\n[part]\nthickness = [1, 2]\n" + bar + rest), "a number is wanted"));
    CHECK(has(faults_of("format = 1\n[part]\nthickness_of = { part = \"sqrt(1 - x)\" }\n" + bar + rest),
              "gives no finite number"));
}

TEST_CASE("expansion over the temperature: the mean from the reference") {
    const std::string table = "[table.alpha]\npoints = [[0, 1e-3], [40, 2e-3]]\n";
    const auto s = solve_cases_of(
        table + "[conduction]\nreference = 10\n[part]\n" + bar +
        material("1000", "0.25", "expansion = \"alpha(T)\"\n") + sizes + rolled +
        "[load.warm]\ntemperature_change = 20\n[case.once]\nfactors = { warm = 1 }\n[case.half]\nfactors = { warm = "
        "0.5 "
        "}\n[quantity.once]\nof = \"ux\"\nat = [4, 0]\n[quantity.half]\nof = \"ux\"\nat = [4, 0]\ncase = "
        "\"half\"\n[quantity.stress]\nof = \"von_mises\"\n[quantity.strain]\nof = \"exx\"\nat = [2, 0.5]\n");
    CHECK(s.value("once") == doctest::Approx(4 * 20 * 1.75e-3));  // at 30
    CHECK(s.value("half") == doctest::Approx(4 * 10 * 1.5e-3));   // at 20
    CHECK(s.value("strain") == doctest::Approx(20 * 1.75e-3));
    CHECK(s.value("stress") < 1e-9);
}

TEST_CASE("what a temperature brings to the strain is the slope of the strain") {
    const auto s =
        solve_cases_of("[conduction]\nreference = 10\n[part]\n" + bar +
                       material("\"1000 - 2 * T\"", "0.25",
                                "conductivity = 1\nexpansion = \"1e-3 * (1 + 0.02 * T + 0.001 * T^2)\"\n") +
                       sizes + rolled + "[support.hot]\non = \"left\"\npotential = 50\n[quantity.q]\nof = \"ux\"\n");
    const auto at = [&](double temperature) {
        return thermal_strain(s.mesh, s.both.study, {}, std::vector<double>(s.mesh.node_of_slot.size(), temperature));
    };
    const auto reference = 1e-3 * (1 + 0.02 * 10 + 0.001 * 100);
    for (const double t : {20.0, 60.0, -30.0}) {
        CAPTURE(t);
        const auto here = at(t), above = at(t + 0.01), below = at(t - 0.01);
        CHECK(here.change[0] == doctest::Approx((t - 10) * 1e-3 * (1 + 0.02 * t + 0.001 * t * t) / reference));
        CHECK(here.slope[0] == doctest::Approx((above.change[0] - below.change[0]) / 0.02).epsilon(1e-5));
        CHECK(here.stiffness_factor[0] == doctest::Approx((1000 - 2 * t) / 980));
        CHECK(here.stiffness_slope[0] == doctest::Approx(-2.0 / 980).epsilon(1e-5));
    }
}

TEST_CASE("a modulus over the temperature, which changes along a bar or is the same all over it") {
    // 1 / E is 1e-3 (1 + x / 2) where the temperature is 10 x.
    const std::string soft = material("\"1000 / (1 + T / 20)\"", "0");
    for (const char* kind : kinds) {
        CAPTURE(std::string(kind));
        const double close = quadratic(kind) ? 2e-4 : 0.02;
        const auto s =
            solve_cases_of("[part]\n" + bar + soft + sizes + rolled +
                           "[load.warm]\ntemperature_change = \"10 * x\"\n[load.pull]\non = "
                           "\"right\"\nforce = [3, 0]\n[quantity.end]\nof = \"ux\"\nat = [4, 0]\n"
                           "[quantity.energy]\nof = \"strain_energy\"\n[quantity.strain]\nof = \"exx\"\nat = "
                           "[2, 0.5]\n" +
                           kind);
        CHECK(s.value("end") == doctest::Approx(0.024).epsilon(close));
        CHECK(s.value("energy") == doctest::Approx(0.5 * 3 * 0.024).epsilon(close));
        CHECK(s.value("strain") == doctest::Approx(0.006).epsilon(10 * close));
        CHECK(worst_stress(s, 0, [](const Vec2&) { return 3.0; }) < 10 * close);
        CHECK(s.solution().balance.relative_error < 1e-9);
    }
    for (const char* plane : {"stress", "strain", "generalised_strain", "axisymmetric"}) {
        CAPTURE(std::string(plane));
        // As warm everywhere: the same as with the constant that it makes, strain by strain and estimate by estimate.
        const auto at = [&](const std::string& young, const std::string& alpha) {
            return solve_cases_of(
                fmt::format("[part]\nplane = \"{}\"\n", plane) +
                "[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, 0]\nsize = [1, 1]\nnames = { bottom = \"bottom\", "
                "right = \"right\" }\n" +
                material(young, "0.3", "expansion = " + alpha + "\n") + "[size]\nglobal = 0.25\n" +
                "[support.floor]\non = \"bottom\"\nhold = \"fixed\"\n[load.warm]\ntemperature_change = "
                "50\n[load.push]\non = \"right\"\npressure = \"10 * y\"\n[quantity.peak]\nof = "
                "\"von_mises\"\n[quantity.hoop]\nof = \"ezz\"\nat = [1.5, 0.5]\n[quantity.force]\nof = "
                "\"reaction_y\"\n[quantity.energy]\nof = \"strain_energy\"\n[mesh]\norder = 2\n");
        };
        const auto hot = at("\"2000 - 20 * T\"", "\"1e-4 * (1 + T / 50)\""), known = at("1000", "2e-4");
        for (const char* q : {"peak", "hoop", "force", "energy"})
            CHECK(hot.value(q) == doctest::Approx(known.value(q)).epsilon(1e-8).scale(1e-3));
        CHECK(share_of_error(hot) == doctest::Approx(share_of_error(known)).epsilon(1e-6));
        const auto error2 = [](const SolvedCases& s) {
            return estimate_error(s.mesh, s.laws, s.cases[0].solution, s.cases[0].stress, {}).error2;
        };
        CHECK(error2(hot) == doctest::Approx(error2(known)).epsilon(1e-6));
        const auto residual = [](const SolvedCases& s) {
            const ErrorMap m = residual_stress_error(s.mesh, s.both.study, s.laws, s.solution());
            return m.energy2;
        };
        CHECK(residual(hot) == doctest::Approx(residual(known)).epsilon(1e-8));
    }
}

TEST_CASE("a conductivity over the temperature: Kirchhoff's integral, alone, in rows, and with a transfer") {
    const std::string ends =
        "[support.cold]\non = \"left\"\npotential = 0\n[support.hot]\non = \"right\"\npotential = 100\n[quantity.mid]\n"
        "of = \"potential\"\nat = [2, 0.5]\n[quantity.in]\nof = \"reaction_flow\"\non = \"hot\"\n"
        "[quantity.lost]\nof = \"dissipation\"\n[quantity.flux]\nof = \"flux_x\"\nat = [2, 0.5]\n";
    for (const char* kind : kinds) {
        CAPTURE(std::string(kind));
        const double close = quadratic(kind) ? 2e-5 : 2e-3;
        const auto s = solve_cases_of("[part]\n" + bar + "[material.m]\nconductivity = \"2 * (1 + T / 100)\"\n" +
                                      sizes + ends + kind);
        CHECK(s.value("in") == doctest::Approx(75).epsilon(close));  // the mean conductivity 3, over a length of 4
        CHECK(s.value("mid") == doctest::Approx(100 * (std::sqrt(2.5) - 1)).epsilon(close));
        CHECK(s.value("lost") == doctest::Approx(7500).epsilon(close));
        CHECK(s.value("flux") == doctest::Approx(-75).epsilon(10 * close));
        CHECK(s.solution().balance.relative_error < 1e-9);
        const auto& f = s.cases[0];
        CHECK(estimate_flux_error(s.mesh, s.laws, f.solution, f.flux, {}).relative() < (quadratic(kind) ? 0.002 : 0.1));
    }
    // A second bar behind it, of a material that stays as it is: where they meet 2 T + T^2 / 100 is four times the
    // flow.
    const auto row = solve_cases_of(
        "[part]\nname = \"first\"\n" + bar +
        "[[part.shape]]\nadd = \"rectangle\"\ncorner = [4, 0]\nsize = [2, 1]\nregion = \"second\"\nnames = { right = "
        "\"end\" }\n[material.m]\non = \"first\"\nconductivity = \"2 * (1 + T / 100)\"\n[material.n]\non = "
        "\"second\"\nconductivity = 5\n" +
        sizes +
        "[support.cold]\non = \"left\"\npotential = 0\n[load.in]\non = \"end\"\nflux = 60\n[quantity.end]\nof = "
        "\"potential\"\nat = [6, 0.5]\n");
    const double between = 100 * (std::sqrt(1 + 60 * 4 / 100.0) - 1);
    CHECK(row.value("end") == doctest::Approx(between + 60 * 2 / 5.0).epsilon(1e-5));
    // A transfer at one end: h (T - 20) leaves there.
    const auto cooled =
        solve_cases_of("[part]\n" + bar + "[material.m]\nconductivity = \"2 * (1 + T / 100)\"\n" + sizes +
                       "[support.hot]\non = \"left\"\npotential = 100\n[load.air]\non = "
                       "\"right\"\ntransfer = 3\nambient = 20\n[quantity.out]\nof = "
                       "\"reaction_flow\"\n[quantity.end]\nof = \"potential\"\nat = [4, 0.5]\n");
    // 2 T + T^2 / 100 + 4 * 3 (T - 20) = 300
    const double end = 50 * (-14 + std::sqrt(14.0 * 14 + 4 * 0.01 * (300 + 240)));
    CHECK(cooled.value("end") == doctest::Approx(end).epsilon(1e-5));
    CHECK(cooled.value("out") == doctest::Approx(3 * (end - 20)).epsilon(1e-5));
}

TEST_CASE("each load case has its own constants, as if it were alone, also from a guess") {
    const std::string heads =
        "[part]\n" + bar +
        material("\"1000 - 4 * T\"", "0.3", "expansion = \"1e-4 * (1 + T / 80)\"\nconductivity = \"2 + T / 40\"\n") +
        sizes + rolled +
        "[support.cold]\non = \"left\"\npotential = 5\n[load.in]\non = \"right\"\nflux = 20\n[load.pull]\non = "
        "\"right\"\ntraction = [2, 0]\n";
    const std::string asked =
        "[quantity.u]\nof = \"ux\"\ntake = \"mean\"\non = \"right\"\n[quantity.hot]\nof = \"potential\"\n";
    const auto both = solve_cases_of(heads + asked +
                                     "[quantity.v]\nof = \"ux\"\ntake = \"mean\"\non = \"right\"\ncase = \"b\"\n"
                                     "[quantity.warm]\nof = \"potential\"\ncase = \"b\"\n[case.a]\nfactors = { in = 2, "
                                     "pull = 1 }\n[case.b]\nfactors = { in = 1, pull = 3 }\n"),
               a = solve_cases_of(heads + asked + "[case.a]\nfactors = { in = 2, pull = 1 }\n"),
               b = solve_cases_of(heads + asked + "[case.b]\nfactors = { in = 1, pull = 3 }\n");
    CHECK(both.value("u") == doctest::Approx(a.value("u")).epsilon(1e-10));
    CHECK(both.value("hot") == doctest::Approx(a.value("hot")).epsilon(1e-10));
    CHECK(both.value("v") == doctest::Approx(b.value("u")).epsilon(1e-10));
    CHECK(both.value("warm") == doctest::Approx(b.value("hot")).epsilon(1e-10));
    StudySolver solver(both.mesh, both.both.study, false);
    std::vector<StartFields> start;
    for (const auto& c : both.cases) start.push_back({c.solution.displacement, c.solution.potential});
    const auto again = solver.solve(start);
    REQUIRE(again.size() == 2);
    for (std::size_t c = 0; c < 2; ++c) {
        CHECK(again[c].load_case == both.cases[c].solution.load_case);
        CHECK(again[c].strain_energy == doctest::Approx(both.cases[c].solution.strain_energy).epsilon(1e-10));
    }
}

TEST_CASE("constants of an orthotropic material stand at their places, and flux and resistance undo each other") {
    MaterialSpec m;
    m.orthotropy = Orthotropy{{100, 40, 10}, {0.3, 0.2, 0.1}, {15, 12, 10}};  // nu12, nu23, nu13
    for (const Plane plane : {Plane::stress, Plane::strain, Plane::axisymmetric}) {
        const auto& c = elastic_law(m, plane).compliance;  // xx, yy, xy, zz
        CHECK(c[0][1] == doctest::Approx(-0.3 / 100));
        CHECK(c[1][3] == doctest::Approx(-0.2 / 40));
        CHECK(c[0][3] == doctest::Approx(-0.1 / 100));
        CHECK(c[2][2] == doctest::Approx(1.0 / 15));
        CHECK(c[3][3] == doctest::Approx(1.0 / 10));
    }
    m.conductivity = {{5, 2, 2}};
    for (const double angle : {0.0, 0.4, 2.0}) {
        m.angle = angle;
        const ConductionLaw law = conduction_law(m);
        const Vec2 gradient{{0.7, -1.3}}, flux = law.flux(gradient);
        CHECK(law.energy_norm2(flux) == doctest::Approx(-dot(gradient, flux)).epsilon(1e-12));
    }
}

TEST_CASE("round an axis residuals know the hoop stress and the radius") {
    // A thick tube under inside pressure, which quadratic elements nearly follow: what is left falls with the size.
    const auto residual = [](const std::string& size, const std::string& physics) {
        const auto s = solve_cases_of(
            "[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, 0]\nsize = [1, "
            "0.5]\nnames = { left = \"in\", right = \"out\", bottom = \"flat\", top = \"flat\" }\n" +
            physics + "[mesh]\nelements = \"quadrilaterals\"\n[size]\nglobal = " + size + "\n");
        const bool elastic = s.both.study.elastic();
        const ErrorMap map = elastic ? residual_stress_error(s.mesh, s.both.study, s.laws, s.solution())
                                     : residual_flux_error(s.mesh, s.both.study, s.laws, s.solution());
        return std::sqrt(map.error2 / map.energy2);
    };
    const std::string
        pressed = material("1000", "0.3") +
                  "[support.flat]\non = \"flat\"\nuy = 0\n[load.p]\non = "
                  "\"in\"\npressure = 10\n[quantity.u]\nof = \"ux\"\n",
        warm =
            "[material.m]\nconductivity = 3\n[support.in]\non = \"in\"\npotential = 10\n[support.out]\non = "
            "\"out\"\npotential = 0\n[quantity.t]\nof = \"potential\"\n";
    for (const auto& physics : {pressed, warm}) {
        const double coarse = residual("0.25", physics), fine = residual("0.0625", physics);
        CAPTURE(coarse);
        CAPTURE(fine);
        CHECK(coarse < 0.05);
        CHECK(fine < coarse / 8);  // of order two
    }
}

TEST_CASE("faults of constants over the temperature") {
    const auto told = [](const std::string& line, const std::string& before = "", const std::string& plane = "stress") {
        return faults_of("format = 1\n" + before + "[part]\nplane = \"" + plane + "\"\n" + bar + "[material.m]\n" +
                         line + sizes + rolled + "[load.p]\non = \"right\"\npressure = 1\n[quantity.u]\nof = \"ux\"\n");
    };
    CHECK(has(told("youngs_modulus = \"1000 * S\"\npoissons_ratio = 0.3\n"), "\"S\" in the formula is no variable"));
    CHECK(has(told("youngs_modulus = \"1000 * x\"\npoissons_ratio = 0.3\n"), "\"x\" in the formula is no variable"));
    CHECK(has(told("youngs_modulus = \"T - 3\"\npoissons_ratio = 0.3\n"), "is -3, but it must be greater than zero"));
    CHECK(has(told("youngs_modulus = \"1000 * T\"\npoissons_ratio = 0.3\n"), "at the reference temperature of 0"));
    CHECK(has(told("youngs_modulus = \"1000 - T\"\npoissons_ratio = 0.49\n", "", "strain"),
              "not possible with a Poisson's ratio of 0.49"));
    CHECK(told("youngs_modulus = \"1000 - T\"\npoissons_ratio = 0.49\n").empty());
    CHECK(has(told("youngs_modulus = \"1000 - T\"\npoissons_ratio = 0.3\n", "[variables]\nT = 7\n"),
              "is also a variable of this study"));
    CHECK(has(told("youngs_modulus = 1000\npoissons_ratio = 0.3\nexpansion = \"2 mm\"\n"), "has the unit of"));
    for (const std::string axes : {"expansion = [\"1e-5 * T\", 1e-5, 1e-5]\n", "conductivity = [2, \"3 + T\"]\n"})
        CHECK(has(told("youngs_modulus = 1000\npoissons_ratio = 0.3\n" + axes), "where only numbers can stand"));
    CHECK(!has(told("youngs_modulus = 1000\npoissons_ratio = 0.3\nexpansion = [\"T0\", 1, 1]\n"), "only numbers"));
    CHECK(has(warnings_of("format = 1\n[part]\n" + bar + material("\"1000 - T\"", "0.3") + sizes + rolled +
                          "[quantity.u]\nof = \"ux\"\n"),
              "the study has no temperature"));
    // Told when it occurs: the reader cannot know which temperatures there will be.
    const std::string melts = "[part]\n" + bar + material("\"1000 - 10 * T\"", "0.3") + sizes + rolled +
                              "[load.hot]\ntemperature_change = \"30 * x\"\n[quantity.u]\nof = \"ux\"\n";
    CHECK_THROWS_WITH_AS((void)solve_cases_of(melts), doctest::Contains("but a number above zero is wanted"),
                         InputError);
    // No temperature carries so much heat: the integral of the conductivity over it stays below 1.6.
    CHECK_THROWS_AS((void)solve_cases_of("[part]\n" + bar + "[material.m]\nconductivity = \"1 / (1 + T^2)\"\n" + sizes +
                                         "[support.cold]\non = \"left\"\npotential = 0\n[load.in]\non = "
                                         "\"right\"\nflux = 30\n[quantity.t]\nof = \"potential\"\n"),
                    Error);
}

TEST_SUITE_END();
