// Supports, loads, cases and materials beyond the simplest ones, against answers that can be written down.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "base/errors.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A bar from x = 0 to 4, y = 0 to 1.
const std::string bar =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 1]\nnames = { left = \"left\", right = \"right\", top = \"top\", "
    "bottom = \"bottom\" }\n";
const std::string soft = "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.25\n";
const std::string rolled =
    "[support.wall]\non = \"left\"\nux = 0\n[support.floor]\non = \"bottom\"\nhold = \"symmetry\"\n";
const std::string sizes = "[size]\nglobal = 0.4\n";
const std::string energy = "[quantity.energy]\nof = \"strain_energy\"\n";

std::string bar_study(const std::string& rest, const std::string& part = "") {
    return "[part]\n" + part + bar + soft + sizes + energy + rest;
}

Vec2 displacement_at(const SolvedCases& s, const Vec2& p, std::size_t load_case = 0) {
    std::size_t best = 0;
    for (std::size_t n = 0; n < s.mesh.nodes.size(); ++n)
        if (distance(s.mesh.nodes[n], p) < distance(s.mesh.nodes[best], p)) best = n;
    return s.solution(load_case).displacement[best];
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("which end of a linearised stress counts") {
    QuantitySpec q;
    CHECK(first_end_counts(q, -10, 10.9));  // nearly alike: the first on every mesh
    CHECK(first_end_counts(q, 10, -5));
    CHECK(!first_end_counts(q, 10, -11.5));
    q.end = PathEnd::last;
    CHECK(!first_end_counts(q, 10, 1));
    const std::string wall =
        "[load.p]\non = \"right\"\npressure = 1\n[path.mid]\npoints = [[2, 0], [2, 1]]\n[quantity.q]\n"
        "of = \"sxx\"\nalong = \"mid\"\n";
    CHECK(has(faults_of("format = 1\n" + bar_study(rolled + wall + "take = \"mean\"\nend = \"last\"\n")),
              "says which end of a linearised stress counts"));
    CHECK(has(faults_of("format = 1\n" + bar_study(rolled + wall + "take = \"linearised\"\nend = \"lst\"\n")),
              "did you mean \"last\"?"));
}

TEST_CASE("a moment spread over a side bends the bar as beam theory says, and sums to itself") {
    const auto s = solve_cases_of(bar_study(
        "[support.wall]\non = \"left\"\nux = 0\n[support.pin]\nat = [0, 0]\nuy = 0\n[load.turn]\non = "
        "\"right\"\nmoment "
        "= 6\n[path.mid]\npoints = [[2, 0], [2, 1]]\n[quantity.moment]\nof = \"section_moment\"\nalong = \"mid\"\n"
        "[quantity.force]\nof = \"section_force_x\"\nalong = \"mid\"\n[quantity.membrane]\nof = \"sxx\"\ntake = "
        "\"membrane\"\nalong = \"mid\"\n[quantity.ends]\nof = \"sxx\"\ntake = \"linearised\"\nalong = \"mid\"\n"
        "[quantity.first]\nof = \"sxx\"\ntake = \"linearised\"\nalong = \"mid\"\nend = \"first\"\n"
        "[quantity.last]\nof = \"sxx\"\ntake = \"linearised\"\nalong = \"mid\"\nend = \"last\"\n"));
    CHECK(s.solution().loads[0].moment[2] == doctest::Approx(6));
    CHECK(norm(s.solution().loads[0].force) < 1e-12);
    const double curvature = 6.0 / (1000.0 / 12);
    CHECK(displacement_at(s, {{4, 0}})[1] == doctest::Approx(curvature * 4 * 4 / 2).epsilon(1e-8));
    // The path runs up, so the side on its left is the one towards the wall.
    CHECK(s.value("moment") == doctest::Approx(-6).epsilon(1e-6));
    CHECK(std::fabs(s.value("force")) < 1e-8);
    CHECK(std::fabs(s.value("membrane")) < 1e-8);
    CHECK(s.value("ends") == doctest::Approx(s.value("first")).epsilon(1e-9));  // as large with the other sign at last
    CHECK(std::fabs(s.value("first")) == doctest::Approx(36).epsilon(1e-6));
    CHECK(s.value("last") == doctest::Approx(-s.value("first")).epsilon(1e-6));
    CHECK(s.solution().reactions[0].moment[2] == doctest::Approx(-6));
}

TEST_CASE("weight and centrifugal force: totals and a hanging bar's stretch") {
    const auto s = solve_cases_of(
        "[part]\nthickness = 2\n" + bar + "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0\ndensity = 3\n" +
        sizes + energy + rolled + "[load.weight]\ngravity = [10, 0]\n[case.pulled]\nfactors = { weight = 1 }\n" +
        "[load.spin]\nrotation = 2\nabout = [0, 0.5]\n[case.spun]\nfactors = { spin = 1 }\n");
    CHECK(s.solution(0).loads[0].force[0] == doctest::Approx(3 * 10 * 4 * 2));
    CHECK(displacement_at(s, {{4, 0}})[0] == doctest::Approx(30.0 * 16 / 2 / 1000).epsilon(1e-9));
    CHECK(s.solution(1).loads[1].force[0] == doctest::Approx(2 * 3 * 4 * 16.0 / 2));
    CHECK(displacement_at(s, {{4, 0}}, 1)[0] == doctest::Approx(3 * 4 * 64.0 / 3 / 1000).epsilon(1e-4));
}

TEST_CASE("a force at a named point, and at a corner") {
    const auto s = solve_cases_of(
        bar_study("[support.wall]\non = \"left\"\nhold = \"fixed\"\n[load.tip]\nat = [4, 1]\nforce = [0, -2]\n"));
    CHECK(s.solution().reactions[0].force[1] == doctest::Approx(2));
    CHECK(s.solution().reactions[0].moment[2] == doctest::Approx(8));
    CHECK(s.solution().balance.relative_error < 1e-10);
    CHECK(has(faults_of("format = 1\n" + bar_study("[support.w]\non = \"left\"\nhold = \"fixed\"\n[load.t]\nat = [3, "
                                                   "0.5]\nforce = [1, 0]\n")),
              "(3, 0.5) is no corner of the outline"));
}

TEST_CASE("a bar on an elastic foundation sinks by the pressure over the stiffness") {
    const auto s = solve_cases_of(
        bar_study("[support.bed]\non = \"bottom\"\nnormal_stiffness = 50\n[support.side]\non = \"left\"\nux = "
                  "0\n[load.p]\non = \"top\"\npressure = 2\n",
                  "thickness = 3\n"));
    // Free sides: the whole bar goes down by p / k and is pressed together by p.
    CHECK(displacement_at(s, {{4, 0}})[1] == doctest::Approx(-2.0 / 50).epsilon(1e-8));
    CHECK(displacement_at(s, {{4, 1}})[1] == doctest::Approx(-2.0 / 50 - 2.0 / 1000).epsilon(1e-8));
    CHECK(s.solution().reactions[0].force[1] == doctest::Approx(2 * 4 * 3));
    CHECK(s.solution().balance.relative_error < 1e-10);
    CHECK(s.solution().strain_energy == doctest::Approx(0.5 * 24 * (2.0 / 50 + 2.0 / 1000)).epsilon(1e-8));
}

TEST_CASE("half a bar with antisymmetry is the whole one") {
    const std::string load = "[load.shear]\non = \"top\"\ntraction = [\"2 - x\", 0]\n";
    const std::string whole_supports = "[support.ends]\non = [\"left\", \"right\"]\nhold = \"fixed\"\n";
    const auto whole = solve_cases_of(bar_study(whole_supports + load));
    const auto half = solve_cases_of("[part]\n" +
                                     std::string("[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nnames = { left = "
                                                 "\"left\", right = \"middle\", top = \"top\" }\n") +
                                     soft + sizes + energy +
                                     "[support.end]\non = \"left\"\nhold = \"fixed\"\n[support.middle]\non = "
                                     "\"middle\"\nhold = \"symmetry\"\n" +
                                     load);
    // The load pulls both halves to the middle: symmetric about x = 2.
    CHECK(whole.value("energy") == doctest::Approx(2 * half.value("energy")).epsilon(2e-3));
    const auto antisymmetric = solve_cases_of(
        "[part]\n" +
        std::string("[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 1]\nnames = { left = \"left\", right "
                    "= \"middle\", top = \"top\" }\n") +
        soft + sizes + energy +
        "[support.end]\non = \"left\"\nhold = \"fixed\"\n[support.middle]\non = \"middle\"\nhold = "
        "\"antisymmetry\"\n[load.push]\non = \"top\"\ntraction = [0, \"2 - x\"]\n");
    const auto whole_anti =
        solve_cases_of(bar_study(whole_supports + "[load.push]\non = \"top\"\ntraction = [0, \"2 - x\"]\n"));
    CHECK(whole_anti.value("energy") == doctest::Approx(2 * antisymmetric.value("energy")).epsilon(2e-3));
}

TEST_CASE("a remote point: rigid and mean ties carry force, moment and motion") {
    const auto remote = [](const std::string& tie, const std::string& what) {
        return solve_cases_of(
            bar_study("[support.wall]\non = \"left\"\nhold = \"fixed\"\n[remote.grip]\nat = [6, "
                      "0.5]\non = \"right\"\ntie = \"" +
                      tie + "\"\n" + what));
    };
    for (const std::string tie : {"rigid", "mean"}) {
        const auto forced = remote(tie, "force = [0, -3]\nmoment = 2\n");
        CAPTURE(tie);
        CHECK(forced.solution().reactions[0].force[1] == doctest::Approx(3));
        CHECK(forced.solution().reactions[0].moment[2] == doctest::Approx(3 * 6 - 2));
        CHECK(forced.solution().balance.relative_error < 1e-9);
        // The same motion prescribed needs the same force.
        const auto& motion = forced.solution().remotes[0];
        const auto moved =
            remote(tie, "ux = " + std::to_string(0.0) + "\nuy = " + fmt::format("{:.17g}", motion.displacement[1]) +
                            "\nturn = " + fmt::format("{:.17g}", motion.turn) + "\n");
        CHECK(moved.solution().strain_energy == doctest::Approx(forced.solution().strain_energy).epsilon(1e-7));
        CHECK(moved.solution().reactions[0].force[1] == doctest::Approx(3).epsilon(1e-7));
        CHECK(moved.solution().reactions[1].force[1] == doctest::Approx(-3).epsilon(1e-7));
        // Work of the loads is twice the energy.
        CHECK(-3 * motion.displacement[1] + 2 * motion.turn ==
              doctest::Approx(2 * forced.solution().strain_energy).epsilon(1e-8));
    }
    // A rigid tie keeps the side straight and as long as it was.
    const auto s = remote("rigid", "force = [0, -3]\n");
    const Vec2 a = displacement_at(s, {{4, 0}}), b = displacement_at(s, {{4, 1}});
    CHECK(a[1] == doctest::Approx(b[1]).epsilon(1e-10));
    CHECK(s.solution().remotes[0].turn == doctest::Approx(a[0] - b[0]).epsilon(1e-9));
}

TEST_CASE("periodic boundaries: a cell under a mean strain") {
    const auto s = solve_cases_of(bar_study(
        "[periodic.along]\nbetween = [\"left\", \"right\"]\njump = [0.02, 0]\n[support.pin]\nat = [0, 0]\nux = 0\nuy = "
        "0\n[quantity.stress]\nof = \"sxx\"\ntake = \"mean\"\n"));
    CHECK(s.value("stress") == doctest::Approx(1000 * 0.02 / 4).epsilon(1e-9));
    CHECK(displacement_at(s, {{4, 1}})[0] - displacement_at(s, {{0, 1}})[0] == doctest::Approx(0.02));
    CHECK(
        has(faults_of("format = 1\n" + bar_study("[periodic.a]\nbetween = [\"left\", \"nowhere\"]\n[support.pin]\nat = "
                                                 "[0, 0]\nhold = \"fixed\"\n[load.p]\non = \"top\"\npressure = 1\n")),
            "no boundary is named \"nowhere\""));
    CHECK(has(faults_of("format = 1\n" + bar_study("[periodic.a]\nbetween = [\"left\", \"top\"]\njump = [0.01, "
                                                   "0]\n[support.pin]\nat = [0, 0]\nhold = \"fixed\"\n")),
              "does not lie on"));
}

TEST_CASE("load cases share one factorisation, and add up") {
    const auto s =
        solve_cases_of(bar_study(
            rolled + "[load.pull]\non = \"right\"\ntraction = [2, 0]\n[load.push]\non = \"top\"\npressure = "
                     "1\n[case.one]\nfactors = { "
                     "pull = 1 }\n[case.two]\nfactors = { push = 3 }\n[case.both]\nfactors = { one = 2, two = 0.5 "
                     "}\n[quantity.end]\nof = \"ux\"\nat = [4, 0]\ncase = \"both\"\n"));
    REQUIRE(s.cases.size() == 3);
    for (std::size_t n = 0; n < s.mesh.nodes.size(); ++n)
        for (std::size_t c = 0; c < 2; ++c)
            CHECK(s.solution(2).displacement[n][c] ==
                  doctest::Approx(2 * s.solution(0).displacement[n][c] + 0.5 * s.solution(1).displacement[n][c])
                      .epsilon(1e-10)
                      .scale(0.01));
    CHECK(s.value("end") == doctest::Approx(2 * 0.008 + 0.5 * 3 * 0.25 * 4 / 1000));
    CHECK(s.solution(1).loads[1].force[1] == doctest::Approx(-12));
    CHECK(has(faults_of("format = 1\n" + bar_study(rolled + "[load.pull]\non = \"right\"\ntraction = [2, "
                                                            "0]\n[case.x]\nfactors = { pul = 1 }\n")),
              "did you mean \"pull\"?"));
}

TEST_CASE("thickness by region, orthotropic axes, tables in formulas") {
    const auto s = solve_cases_of(
        "[part]\nname = \"thin\"\nthickness = 1\nthickness_of = { thick = 4 }\n[[part.shape]]\nadd = "
        "\"rectangle\"\nsize = [2, "
        "1]\nnames = { left = \"left\", bottom = \"bottom\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [2, "
        "0]\nsize = [2, "
        "1]\nregion = \"thick\"\nnames = { right = \"right\", bottom = \"bottom\" }\n[material.m]\nyoungs_modulus = "
        "1000\npoissons_ratio = 0\n" +
        sizes + rolled +
        "[load.f]\non = \"right\"\nforce = [8, 0]\n[quantity.end]\nof = \"ux\"\nat = [4, 0]\n[quantity.thin]\nof = "
        "\"sxx\"\ntake = \"mean\"\non = \"thin\"\n[quantity.thick]\nof = \"sxx\"\ntake = \"mean\"\non = \"thick\"\n");
    // Across the step the stress is uneven near the corners only in reality; with nu = 0 it is even.
    CHECK(s.value("thin") == doctest::Approx(8));
    CHECK(s.value("thick") == doctest::Approx(2));
    CHECK(s.value("end") == doctest::Approx(0.016 + 0.004));

    const auto turned = solve_cases_of(
        "[part]\n" + bar +
        "[material.m]\nmoduli = [2000, 500, 500]\npoissons_ratios = [0.3, 0.3, 0.3]\nshear_modulus = 300\nangle = \"30 "
        "deg\"\n" +
        sizes +
        "[support.pin]\nat = [0, 0]\nux = 0\nuy = 0\n[support.turn]\nat = [4, 0]\nuy = 0\n[load.a]\non = "
        "\"right\"\ntraction = [6, 0]\n[load.b]\non = \"left\"\ntraction = [-6, 0]\n[quantity.strain]\nof = "
        "\"exx\"\ntake = "
        "\"mean\"\n[quantity.through]\nof = \"ezz\"\ntake = \"mean\"\n");
    // 1/E along an axis turned by 30 degrees (Lekhnitskii 1963, eq. 9.5)
    const double c2 = 0.75, s2 = 0.25;
    const double compliance = c2 * c2 / 2000 + s2 * s2 / 500 + (1.0 / 300 - 2 * 0.3 / 2000) * c2 * s2;
    CHECK(turned.value("strain") == doctest::Approx(6 * compliance).epsilon(1e-9));
    CHECK(turned.value("through") == doctest::Approx(6 * (-0.3 / 2000 * c2 - 0.3 / 500 * s2)).epsilon(1e-9));

    const auto table =
        solve_cases_of(bar_study(rolled + "[table.profile]\npoints = [[0, 0], [0.5, 4], [1, 0]]\n[load.p]\non = "
                                          "\"right\"\ntraction = [\"3 * profile(y)\", 0]\n"));
    CHECK(table.solution().loads[0].force[0] == doctest::Approx(3 * 2).epsilon(0.03));  // a kink inside a side
}

TEST_CASE("generalised plane strain: a heated bar is free to grow, in plane strain it is not") {
    const std::string heated = "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.25\nexpansion = 1e-3\n" +
                               sizes + "[support.wall]\non = \"left\"\nux = 0\n[support.pin]\nat = [0, 0]\nuy = 0\n" +
                               "[load.heat]\ntemperature_change = \"20 + 5 * y\"\n[quantity.through]\nof = "
                               "\"szz\"\ntake = \"maximum\"\n[quantity.strain]\nof = \"ezz\"\ntake = \"mean\"\n";
    const auto tilts = solve_cases_of("[part]\nplane = \"generalised_strain\"\n" + bar + heated);
    CHECK(std::fabs(tilts.value("through")) < 1e-8);  // a linear temperature: planes stay plane without stress
    CHECK(tilts.value("strain") == doctest::Approx(1e-3 * 22.5));
    CHECK(tilts.solution().axial.tilt[1] == doctest::Approx(5e-3));
    const auto held = solve_cases_of("[part]\nplane = \"strain\"\n" + bar + heated);
    CHECK(held.value("through") < -15);
    CHECK(held.solution().balance.relative_error < 1e-9);
    CHECK(std::fabs(held.value("strain")) < 1e-9);
}

TEST_CASE("temperature that was solved for strains the part, each case with its own") {
    const auto s = solve_cases_of(
        "[part]\n" + bar +
        "[conduction]\nreference = 10\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.25\nexpansion = "
        "1e-3\nconductivity = 5\n" +
        sizes +
        "[support.wall]\non = \"left\"\nux = 0\npotential = 10\n[support.floor]\non = \"bottom\"\nhold = "
        "\"symmetry\"\n[load.heat]\non = \"right\"\nflux = 50\n[case.low]\nfactors = { heat = 1 "
        "}\n[case.high]\nfactors = { "
        "heat = 3 }\n[quantity.low]\nof = \"ux\"\ntake = \"mean\"\non = \"right\"\n[quantity.high]\nof = \"ux\"\ntake "
        "= "
        "\"mean\"\non = \"right\"\ncase = \"high\"\n[quantity.flow]\nof = \"reaction_flow\"\n[quantity.hot]\nof = "
        "\"potential\"\n");
    CHECK(s.value("hot") == doctest::Approx(10 + 40));
    CHECK(s.value("flow") == doctest::Approx(-50));
    CHECK(s.value("low") == doctest::Approx(1e-3 * 20 * 4 + 1e-3 * 10 / 2 * (1.0 / 3)).epsilon(0.02));
    CHECK(s.value("high") == doctest::Approx(3 * s.value("low")).epsilon(1e-9));
}

TEST_CASE("an orthotropic conductor, a source, and a potential of another kind") {
    const auto s = solve_cases_of(
        "[part]\n" + bar +
        "[conduction]\npotential = \"head\"\nunit = \"m\"\n[material.soil]\nconductivity = [4, 1]\n" + sizes +
        "[support.a]\non = [\"left\", \"right\"]\npotential = 0\n[load.rain]\nsource = 6\n[quantity.top]\nof = "
        "\"potential\"\n[quantity.in]\nof = \"reaction_flow\"\n[quantity.whole]\nof = \"potential\"\ntake = "
        "\"integral\"\n");
    CHECK(s.value("top") == doctest::Approx(6 * 16.0 / 8 / 4));
    CHECK(s.value("in") == doctest::Approx(-24));
    CHECK(s.value("whole") == doctest::Approx(2.0 / 3 * 3 * 4));
    CHECK(unit_of(s.both.study, Field::potential) == "m");
}

TEST_CASE("an axisymmetric ball of a ring: hoop stress, weight on the axis, totals all round") {
    const auto s = solve_cases_of(
        "[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [2, 3]\nnames = { left = "
        "\"axis\", "
        "bottom = \"floor\", top = \"top\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.25\ndensity = "
        "2\n" +
        sizes +
        "[support.floor]\non = \"floor\"\nhold = \"symmetry\"\n[load.weight]\ngravity = [0, -10]\n[load.lid]\non = "
        "\"top\"\npressure = 7\n[case.all]\nfactors = { weight = 1, lid = 1 }\n[case.lid_alone]\nfactors = { lid = 1 "
        "}\n[quantity.down]\nof = \"reaction_y\"\n[quantity.hoop]\nof = \"szz\"\ncase = \"lid_alone\"\n");
    const double area = 4 * std::numbers::pi;
    CHECK(s.value("down") == doctest::Approx(area * (3 * 2 * 10 + 7)));
    CHECK(std::fabs(s.value("hoop")) < 1e-8);  // free sides
    CHECK(has(
        faults_of("format = 1\n[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [-1, "
                  "0]\nsize = [2, 1]\nnames = { bottom = \"b\" }\n" +
                  soft + energy + "[support.s]\non = \"b\"\nuy = 0\n[load.l]\non = \"b\"\npressure = 1\n"),
        "x is the radius"));
}

TEST_CASE("components about a centre, largest shear") {
    const auto s = solve_cases_of(
        bar_study(rolled + "[load.pull]\non = \"right\"\ntraction = [8, 0]\n[quantity.rr]\nof = \"srr\"\nat "
                           "= [2, 0]\n[quantity.tt]\nof = \"stt\"\nat = [2, 0]\nabout = [2, "
                           "-3]\n[quantity.rt]\nof = \"srt\"\nat = [2, 0]\nabout = [1, -1]\n[quantity.shear]\nof "
                           "= \"max_shear\"\n[quantity.out]\nof = \"ur\"\nat = [4, 0]\n"));
    CHECK(s.value("rr") == doctest::Approx(8));
    CHECK(s.value("tt") == doctest::Approx(8));
    CHECK(s.value("rt") == doctest::Approx(-4));
    CHECK(s.value("shear") == doctest::Approx(4));
    CHECK(s.value("out") == doctest::Approx(8.0 / 1000 * 4));
}

TEST_CASE("motions that nothing holds are named; the level of a potential too") {
    const std::string load = "[load.p]\non = \"top\"\npressure = 1\n";
    CHECK(has(faults_of("format = 1\n" + bar_study(load + "[support.bed]\non = \"bottom\"\nnormal_stiffness = 5\n")),
              "free to move along x"));
    CHECK(has(faults_of("format = 1\n" + bar_study(load + "[support.a]\non = \"left\"\nhold = \"antisymmetry\"\n")),
              "free to slide and turn"));
    CHECK(has(faults_of("format = 1\n" + bar_study(load + "[remote.r]\nat = [5, 0]\non = \"right\"\nforce = [1, 0]\n")),
              "free to move along x and y and turn"));
    CHECK(!has(faults_of("format = 1\n" + bar_study(load + "[remote.r]\nat = [5, 0]\non = \"right\"\nux = 0\nuy = "
                                                           "0\nturn = 0\n")),
               "free to"));
    CHECK(has(faults_of("format = 1\n[part]\nplane = \"axisymmetric\"\n" + bar + soft + energy + load +
                        "[support.a]\non = \"right\"\nux = 0\n"),
              "free to move along y"));
    CHECK(has(faults_of("format = 1\n[part]\n" + bar +
                        "[material.m]\nconductivity = 1\n[load.q]\non = \"top\"\nflux = 1\n[quantity.t]\nof = "
                        "\"potential\"\n"),
              "nothing fixes the level of the potential"));
}

TEST_CASE("constants and loads that make no sense are told") {
    const auto faults = [](const std::string& rest) {
        return faults_of("format = 1\n[part]\n" + bar + energy + "[support.w]\non = \"left\"\nhold = \"fixed\"\n" +
                         rest);
    };
    const std::string load = "[load.p]\non = \"right\"\npressure = 1\n";
    CHECK(has(faults(load + "[material.m]\nmoduli = [10, 1000, 10]\npoissons_ratios = [0.9, 0.3, 0.3]\nshear_modulus = "
                            "5\n"),
              "release energy"));
    CHECK(has(faults(load + "[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.3\nmoduli = [1, 1, 1]\n"),
              "stands beside constants of an isotropic material"));
    CHECK(has(faults("[load.g]\ngravity = [0, -9.81]\n" + soft), "has no density, which load.g needs"));
    CHECK(has(faults("[load.q]\non = \"right\"\nflux = 1\n" + soft), "no material has a conductivity"));
    CHECK(has(faults(load + soft + "[quantity.t]\nof = \"flux_x\"\n"), "no material has a conductivity"));
    CHECK(has(faults(load + soft + "[quantity.t]\nof = \"sxx\"\nalong = \"no\"\n"), "no path has that name"));
    CHECK(has(faults(load + soft + "[load.t]\non = \"right\"\ntransfer = 3\n"), "lacks the key \"ambient\""));
    CHECK(has(faults(load + soft + "[table.t]\npoints = [[1, 0], [0, 1]]\n"), "must ascend"));
    CHECK(has(faults(load + soft + "[table.sin]\npoints = [[0, 0], [1, 1]]\n"), "formulas know a function sin"));
    const std::string away = "[path.away]\npoints = [[9, 0], [9, 1]]\n",
                      out = "[path.out]\npoints = [[2, 0], [2, 3]]\n";
    CHECK(has(faults(load + soft + away), "path.away lies outside the part"));
    CHECK(has(faults(load + soft + out + "[quantity.m]\nof = \"sxx\"\nalong = \"out\"\ntake = \"membrane\"\n"),
              "path.out leaves the part at (2, "));
    CHECK(!has(faults(load + soft + out + "[quantity.m]\nof = \"sxx\"\nalong = \"out\"\ntake = \"maximum\"\n"),
               "path.out"));
    CHECK(has(warnings_of("format = 1\n[part]\n" + bar + energy +
                          "[support.w]\non = \"left\"\nhold = \"fixed\"\n[load.p]\non = \"right\"\npressure = "
                          "1e8\n[material.m]\nyoungs_modulus = 210\npoissons_ratio = 0.3\n"),
              "is one of the units wrong?"));
    CHECK(has(warnings_of("format = 1\n[part]\nplane = \"strain\"\n" + bar + energy +
                          "[support.w]\non = \"left\"\nhold = \"fixed\"\n[load.p]\non = \"right\"\npressure = "
                          "1\n[material.m]\nyoungs_modulus = 210\npoissons_ratio = 0.4999\n[mesh]\norder = 1\n"),
              "nearly incompressible"));
    CHECK(has(faults_of("format = 1\n[part]\n" + bar +
                        "[material.m]\nconductivity = 1\n[support.a]\non = \"left\"\npotential = "
                        "1\n[support.b]\non = \"bottom\"\npotential = 2\n[quantity.t]\nof = "
                        "\"potential\"\n"),
              "support.a and support.b contradict each other: they give the point (0, 0) different potentials"));
}

TEST_CASE("recovered, the elements' own, and at integration points") {
    // Linear triangles: the elements' own stress is constant, so its nodes and integration points agree.
    const std::string bent = bar_study(
        "[support.wall]\non = \"left\"\nux = 0\n[support.pin]\nat = [0, 0]\nuy = "
        "0\n[load.turn]\non = \"right\"\nmoment = 6\n[mesh]\norder = 1\n"
        "[quantity.recovered]\nof = \"sxx\"\n[quantity.own]\nof = \"sxx\"\nfrom = "
        "\"elements\"\n[quantity.points]\nof = \"sxx\"\nfrom = \"integration_points\"\n"
        "[quantity.least]\nof = \"sxx\"\nfrom = \"elements\"\ntake = \"minimum\"\n");
    const auto s = solve_cases_of(bent);
    CHECK(s.value("own") == doctest::Approx(s.value("points")));
    CHECK(s.value("own") < s.value("recovered"));
    CHECK(s.value("own") > 0.3 * 36);
    CHECK(s.value("least") < -0.3 * 36);
    CHECK(has(faults_of("format = 1\n" + bar_study("[support.w]\non = \"left\"\nhold = \"fixed\"\n[load.t]\non = "
                                                   "\"right\"\npressure = 1\n[quantity.q]\nof = \"ux\"\nfrom = "
                                                   "\"elements\"\n")),
              "goes with stress, strain and flux only"));
}

TEST_CASE("radial components about a named point") {
    const auto s = solve_cases_of(
        "[part]\n" + bar + "[[part.shape]]\nmark = \"point\"\nat = [2, 0.5]\nname = \"middle\"\n" + soft + sizes +
        rolled +
        "[load.pull]\non = \"right\"\ntraction = [8, 0]\n[quantity.rr]\nof = \"srr\"\nat = [2, 1]\nabout = "
        "\"middle\"\n[quantity.tt]\nof = \"stt\"\nat = [2, 1]\nabout = \"middle\"\n");
    CHECK(std::fabs(s.value("rr")) < 1e-9);
    CHECK(s.value("tt") == doctest::Approx(8));
    CHECK(has(faults_of("format = 1\n[part]\n" + bar + soft + rolled +
                        "[load.p]\non = \"right\"\npressure = 1\n[quantity.q]\nof = \"srr\"\nabout = \"centre\"\n"),
              "no point is named \"centre\""));
}

TEST_CASE("the solver can be chosen, and memory that does not suffice is told or made do with") {
    const std::string study = rolled + "[load.pull]\non = \"right\"\ntraction = [\"y\", 0]\n";
    const auto direct = solve_cases_of(bar_study(study + "[solver]\nmethod = \"direct\"\n"));
    const auto iterative = solve_cases_of(bar_study(study + "[solver]\nmethod = \"iterative\"\n"));
    const auto small = solve_cases_of(bar_study(study + "[solver]\nmost_memory = 1e-6\n"));
    CHECK(has(direct.solution().solver.method, "Cholesky"));
    CHECK(has(iterative.solution().solver.method, "p-multigrid"));
    CHECK(has(small.solution().solver.method, "p-multigrid"));
    CHECK(iterative.value("energy") == doctest::Approx(direct.value("energy")).epsilon(1e-10));
    CHECK(small.value("energy") == iterative.value("energy"));
    CHECK_THROWS_WITH_AS((void)solve_cases_of(bar_study(study + "[solver]\nmost_memory = 1e-6\n[mesh]\norder = 1\n")),
                         doctest::Contains("but it may take only"), SolveError);
    CHECK(has(faults_of("format = 1\n" + bar_study(study + "[solver]\nmethod = \"iterative\"\n[mesh]\norder = 1\n")),
              "works on quadratic elements only"));
}

TEST_CASE("a part that is as warm everywhere, or moved as a whole, is solved: what is left is rounding") {
    const auto warm =
        solve_cases_of("[part]\n" + bar + "[material.m]\nconductivity = 3\n" + sizes +
                       "[support.a]\non = \"left\"\npotential = 300\n[quantity.t]\nof = \"potential\"\ntake = "
                       "\"minimum\"\n");
    CHECK(warm.value("t") == doctest::Approx(300));
    CHECK(warm.solution().balance.relative_error == 0);
    const auto moved = solve_cases_of(bar_study("[support.a]\non = \"left\"\nux = 2\nuy = 1\n"));
    CHECK(displacement_at(moved, {{4, 1}})[0] == doctest::Approx(2));
    CHECK(moved.solution().balance.relative_error == 0);
    CHECK_THROWS_WITH_AS(
        (void)solve_cases_of("[part]\n" + bar + "[material.m]\nconductivity = 3\n" + sizes +
                             "[load.a]\non = \"left\"\ntransfer = \"x - 1\"\nambient = 3\n[quantity.t]\nof = "
                             "\"potential\"\n"),
        doctest::Contains("coefficient is negative"), InputError);
    CHECK(has(faults_of("format = 1\n" + bar_study("[path.p]\npoints = [[0, 0], [1, 0]]\nsamples = 10000000000\n")),
              "at most 100000"));
}

TEST_SUITE_END();
