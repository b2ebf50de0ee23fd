// What acts on solids and what they are made of, in whole studies, against closed forms.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "part/checks/check_study.hpp"
#include "series/run.hpp"
#include "solve/material/solid_law.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

/// The last level of a uniform series of one mesh, or of what `series` says.
Level solved(const std::string& part, const std::string& rest,
             const std::string& series = "[series.s]\nkind = \"uniform\"\nmost_levels = 1\n") {
    Problems problems("test.toml");
    const auto both = open_study("test.toml", "format = 1\n" + part + rest + series, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    REQUIRE(both.solid);
    StudyObserver silent;
    return run_study(both, silent).series.front().levels.back();
}

std::string told(const std::string& part, const std::string& rest) {
    Problems problems("test.toml");
    const auto both = open_study("test.toml", "format = 1\n" + part + rest, problems);
    return problems.text();
}

double value(const Level& level, const std::string& name) {
    for (const auto& q : level.quantities)
        if (q.name == name) return q.value;
    FAIL("no quantity ", name);
    return 0;
}

/// A bar along x with all sides named, and its material.
std::string bar(const std::string& size = "[8, 2, 1]") {
    return "[part]\n[[part.shape]]\nadd = \"box\"\nsize = " + size +
           "\nnames = { left = \"left\", right = \"right\", front = \"front\", back = \"back\", bottom = "
           "\"bottom\", top = \"top\" }\n";
}
const std::string soft = "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0\ndensity = 2\n";
const std::string rollers =
    "[support.x]\non = \"left\"\nhold = \"symmetry\"\n[support.y]\non = \"front\"\nhold = \"symmetry\"\n"
    "[support.z]\non = \"bottom\"\nhold = \"symmetry\"\n";
const std::string clamp = "[support.wall]\non = \"left\"\nhold = \"fixed\"\n";

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("a solid turns about an axis anywhere in space") {
    // A bar from 3 to 11 along x from the axis: stress = density w^2 (R^2 - r^2) / 2 with the outer end free.
    const auto spin = [](const std::string& about) {
        return solved(bar(), soft + clamp + "[load.spin]\nrotation = 5\n" + about +
                                 "[quantity.force]\nof = \"reaction_x\"\non = \"wall\"\n"
                                 "[quantity.side]\nof = \"reaction_y\"\non = \"wall\"\n");
    };
    const double whole = 2 * 25 * (11 * 11 - 3 * 3) / 2.0 * 2;
    const Level far = spin("about = [[-3, 1, 0], [-3, 1, 4]]\n");
    CHECK(value(far, "force") == doctest::Approx(-whole).epsilon(1e-9));
    CHECK(value(far, "side") == doctest::Approx(0).scale(whole));
    // About the axis z through the origin the bar reaches from 0 to 8, and from 0 to 2 along y.
    const Level near = spin("");
    CHECK(value(near, "force") == doctest::Approx(-2.0 * 25 * 32 * 2).epsilon(1e-9));
    CHECK(value(near, "side") == doctest::Approx(-2.0 * 25 * 2 * 8).epsilon(1e-9));
    // About x nothing pulls along it, whichever way the axis is given.
    for (const char* axis : {"about = [[0, 1, 0.5], [9, 1, 0.5]]\n", "about = [[5, 1, 0.5], [-2, 1, 0.5]]\n"})
        CHECK(value(spin(axis), "force") == doctest::Approx(0).scale(whole));
}

TEST_CASE("moments on faces of a solid: twisted and bent bars") {
    // Bent: ends turn by M L / (E I) about y, and nothing else strains, with Poisson's ratio 0.
    const double inertia = 2 * 1.0 / 12;
    const Level bent = solved(bar(), soft + clamp +
                                         "[load.m]\non = \"right\"\nmoment = [0, 5, 0]\n"
                                         "[quantity.w]\nof = \"uz\"\nat = [8, 1, 0.5]\n"
                                         "[quantity.m]\nof = \"reaction_x\"\non = \"wall\"\n");
    CHECK(value(bent, "w") == doctest::Approx(-5.0 * 64 / (2 * 1000 * inertia)).epsilon(1e-6));
    CHECK(value(bent, "m") == doctest::Approx(0).scale(1));
    REQUIRE(bent.solid->cases.front().solution.reactions.size() == 1);
    CHECK(bent.solid->cases.front().solution.reactions[0].moment[1] == doctest::Approx(-5).epsilon(1e-9));
    CHECK(bent.solid->cases.front().solution.loads[0].moment[1] == doctest::Approx(5).epsilon(1e-9));
    // Twisted: a round bar turns by M L / (G J).
    const std::string rod =
        "[part]\n[[part.shape]]\nadd = \"cylinder\"\nfrom = [0, 0, 0]\nto = [0, 0, 6]\nradius = 1\nnames = { start "
        "= \"left\", end = \"right\" }\n";
    const Level twisted = solved(rod, soft + clamp +
                                          "[load.m]\non = \"right\"\nmoment = [0, 0, 7]\n"
                                          "[size]\nglobal = 0.6\n"
                                          "[quantity.v]\nof = \"uy\"\nat = [1, 0, 6]\n");
    CHECK(value(twisted, "v") == doctest::Approx(7 * 6 / (500 * pi / 2)).epsilon(2e-3));
}

TEST_CASE("forces and supports at single points of a solid") {
    const std::string held =
        "[support.a]\nat = [0, 0, 0]\nhold = \"fixed\"\n[support.b]\nat = [8, 0, 0]\nuy = 0\nuz = 0\n"
        "[support.c]\nat = \"peg\"\nuz = 0\n";
    const std::string part = bar() + "[[part.shape]]\nmark = \"point\"\nat = [0, 2, 0]\nname = \"peg\"\n";
    // Held just so that it cannot move: even tension by forces at its faces, no reaction.
    const Level even = solved(part, soft + held +
                                        "[load.l]\non = \"left\"\ntraction = [-3, 0, 0]\n[load.r]\non = "
                                        "\"right\"\ntraction = [3, 0, 0]\n"
                                        "[quantity.u]\nof = \"ux\"\nat = [8, 1, 0.5]\n"
                                        "[quantity.s]\nof = \"sxx\"\ntake = \"mean\"\n");
    CHECK(value(even, "u") == doctest::Approx(8 * 0.003).epsilon(1e-9));
    CHECK(value(even, "s") == doctest::Approx(3).epsilon(1e-9));
    for (const auto& r : even.solid->cases.front().solution.reactions) CHECK(norm(r.force) < 1e-9);
    // A force at a corner: the wall takes it and its moment.
    const Level pushed = solved(bar(), soft + clamp + "[load.p]\nat = [8, 2, 1]\nforce = [1, -2, 3]\n");
    const auto& s = pushed.solid->cases.front().solution;
    for (std::size_t c = 0; c < 3; ++c)
        CHECK(s.reactions[0].force[c] == doctest::Approx(std::array{-1.0, 2.0, -3.0}[c]).epsilon(1e-8));
    CHECK(s.reactions[0].moment[2] == doctest::Approx(-(8 * -2.0 - 2 * 1)).epsilon(1e-8));
    CHECK(s.balance.relative_error < 1e-9);
    // Where no corner is, and where too little is held.
    CHECK(
        told(bar(), soft + clamp + "[load.p]\nat = [4, 1, 1]\nforce = [0, 0, 1]\n").find("is no corner of the solid") !=
        std::string::npos);
    CHECK(told(bar(), soft + "[support.a]\nat = [0, 0, 0]\nhold = \"fixed\"\n[load.r]\non = \"right\"\n"
                             "traction = [1, 0, 0]\n")
              .find("free to turn about") != std::string::npos);
}

TEST_CASE("a force is spread over a face as a formula says") {
    // In proportion to y: the resultant lies two thirds of the width up.
    const Level l = solved(bar(), soft + clamp + "[load.f]\non = \"right\"\nforce = [0, 0, 6]\nspread = \"y\"\n");
    const auto& load = l.solid->cases.front().solution.loads[0];
    CHECK(load.force[2] == doctest::Approx(6));
    CHECK(load.moment[0] == doctest::Approx(6 * 4.0 / 3));
    CHECK(told(bar(), soft + clamp + "[load.f]\non = \"right\"\nforce = [0, 0, 6]\nspread = \"y - 1\"\n").empty());
}

TEST_CASE("a solid on springs settles by its load over their stiffness") {
    // Pressed evenly on springs below: p / k everywhere; a shear moves it by t / kt.
    const std::string springs = "[support.bed]\non = \"bottom\"\nnormal_stiffness = 50\ntangential_stiffness = 20\n";
    const Level l = solved(bar(), soft + springs +
                                      "[load.p]\non = \"top\"\npressure = 4\n"
                                      "[quantity.foot]\nof = \"uz\"\nat = [3, 1, 0]\n"
                                      "[quantity.r]\nof = \"reaction_z\"\non = \"bed\"\n");
    CHECK(value(l, "foot") == doctest::Approx(-4.0 / 50).epsilon(1e-9));
    CHECK(value(l, "r") == doctest::Approx(4 * 16).epsilon(1e-9));
    CHECK(l.solid->cases.front().solution.balance.relative_error < 1e-9);
    const Level shifted = solved(bar(), soft + springs +
                                            "[load.t]\nbody_force = [3, 0, 0]\n"
                                            "[quantity.r]\nof = \"reaction_x\"\non = \"bed\"\n");
    CHECK(value(shifted, "r") == doctest::Approx(-3 * 16).epsilon(1e-9));
    // A spring that only pushes leaves the part free along it.
    CHECK(told(bar(), soft + "[support.bed]\non = \"bottom\"\nnormal_stiffness = 50\n[load.p]\non = \"top\"\n"
                             "pressure = 4\n")
              .find("free to move along x") != std::string::npos);
}

TEST_CASE("heat passes to the surroundings, and through an interface that resists") {
    const std::string conducting = "[material.m]\nconductivity = 5\n";
    // In series: from 100 through 8 of 5, then through a transfer of 2 to 20.
    const Level l = solved(bar(), conducting +
                                      "[support.hot]\non = \"left\"\npotential = 100\n"
                                      "[load.air]\non = \"right\"\ntransfer = 2\nambient = 20\n"
                                      "[quantity.t]\nof = \"potential\"\nat = [8, 1, 0.5]\n"
                                      "[quantity.f]\nof = \"reaction_flow\"\non = \"hot\"\n");
    const double flux = 80 / (8.0 / 5 + 1.0 / 2);
    CHECK(value(l, "t") == doctest::Approx(20 + flux / 2).epsilon(1e-9));
    CHECK(value(l, "f") == doctest::Approx(flux * 2).epsilon(1e-9));
    CHECK(l.solid->cases.front().solution.loads[0].flow == doctest::Approx(-flux * 2).epsilon(1e-9));
    CHECK(l.solid->cases.front().solution.balance.relative_error < 1e-9);
    // Nothing but surroundings: all of it takes their temperature.
    const Level alone = solved(bar(), conducting +
                                          "[load.air]\non = \"right\"\ntransfer = 2\nambient = 20\n"
                                          "[quantity.t]\nof = \"potential\"\nat = [0, 0, 0]\n");
    CHECK(value(alone, "t") == doctest::Approx(20).epsilon(1e-9));
    // Two regions with a resistance between them: the potential jumps by it.
    const std::string two = bar() +
                            "[[part.shape]]\nadd = \"box\"\ncorner = [8, 0, 0]\nsize = [4, 2, 1]\nregion = \"tip\"\n"
                            "names = { right = \"end\" }\n[part.interface.joint]\nbetween = [\"part\", \"tip\"]\n";
    const Level jump = solved(two, conducting +
                                       "[support.hot]\non = \"left\"\npotential = 100\n[support.cold]\non = "
                                       "\"end\"\npotential = 0\n[resistance.r]\non = \"joint\"\nvalue = 3\n"
                                       "[quantity.f]\nof = \"reaction_flow\"\non = \"hot\"\n"
                                       "[quantity.high]\nof = \"potential\"\ntake = \"maximum\"\non = \"tip\"\n"
                                       "[quantity.low]\nof = \"potential\"\ntake = \"minimum\"\non = \"part\"\n");
    const double through = 100 / (12.0 / 5 + 3);
    CHECK(value(jump, "f") == doctest::Approx(2 * through).epsilon(1e-9));
    CHECK(value(jump, "low") - value(jump, "high") == doctest::Approx(3 * through).epsilon(1e-8));
    CHECK(told(bar(), conducting + "[support.hot]\non = \"left\"\npotential = 1\n[resistance.r]\non = \"right\"\n"
                                   "value = 3\n")
              .find("lies between no two regions") != std::string::npos);
}

TEST_CASE("orthotropic solids: laws in turned axes, tension along and across the grain") {
    MaterialSpec m;
    m.orthotropy = Orthotropy{{12000, 900, 500}, {0.4, 0.3, 0.35}, {800, 60, 700}};
    m.expansion = {1e-6, 3e-5, 4e-5};
    m.conductivity = {{5, 2, 1}};
    // By the plane's law for what that has.
    m.angle = 0.7;
    const SolidLaw law = solid_law(m);
    const ElasticLaw plane = elastic_law(m, Plane::strain);
    for (std::size_t i = 0; i < 4; ++i)
        for (std::size_t j = 0; j < 4; ++j)
            CHECK(law.elastic.compliance[i][j] == doctest::Approx(plane.compliance[i][j]).scale(1e-3).epsilon(1e-9));
    for (std::size_t i = 0; i < 4; ++i)
        CHECK(law.elastic.expansion[i] == doctest::Approx(plane.expansion[i]).scale(1e-5).epsilon(1e-9));
    // Axes that are named turn as the angle does.
    MaterialSpec named = m;
    named.angle = 0;
    named.axes = {{{{std::cos(0.7), std::sin(0.7), 0}}, {{-1, 0, 0}}}};
    const SolidLaw same = solid_law(named);
    for (std::size_t i = 0; i < 6; ++i)
        for (std::size_t j = 0; j < 6; ++j)
            CHECK(same.elastic.stiffness[i][j] ==
                  doctest::Approx(law.elastic.stiffness[i][j]).scale(1e3).epsilon(1e-9));
    // Along any axis: stiffness times compliance is one, and the energy of a stress along the first axis is its
    // modulus.
    named.axes = {{{{1, 2, -1}}, {{0, 1, 3}}}};
    const SolidLaw any = solid_law(named);
    const Vec3 grain = Vec3{{1, 2, -1}} / std::sqrt(6);
    const Stress3 along{{grain[0] * grain[0], grain[1] * grain[1], grain[0] * grain[1], grain[2] * grain[2],
                         grain[1] * grain[2], grain[2] * grain[0]}};
    CHECK(any.elastic.energy_norm2(along) == doctest::Approx(1 / 12000.0).epsilon(1e-9));
    const Stress3 back = any.elastic.stress(any.elastic.strain(along, 7), 7);
    for (std::size_t c = 0; c < 6; ++c) CHECK(back[c] == doctest::Approx(along[c]).epsilon(1e-9));
    CHECK(dot(any.conduction.flux(grain), grain) == doctest::Approx(-5).epsilon(1e-9));
    // A bar whose grain stands along y: its length follows the modulus across.
    const std::string wood =
        "[material.m]\nmoduli = [12000, 900, 500]\npoissons_ratios = [0.4, 0.3, 0.35]\nshear_modulus = [800, 60, "
        "700]\n";
    const auto pulled = [&](const std::string& axes) {
        return value(solved(bar(), wood + axes + rollers +
                                       "[load.l]\non = \"right\"\ntraction = [9, 0, 0]\n"
                                       "[quantity.u]\nof = \"ux\"\nat = [8, 1, 0.5]\n"),
                     "u");
    };
    CHECK(pulled("") == doctest::Approx(9.0 * 8 / 12000).epsilon(1e-9));
    CHECK(pulled("angle = \"90 deg\"\n") == doctest::Approx(9.0 * 8 / 900).epsilon(1e-9));
    CHECK(pulled("axes = [[0, 0, 1], [0, 1, 0]]\n") == doctest::Approx(9.0 * 8 / 500).epsilon(1e-9));
    CHECK(told(bar(), wood + "axes = [[0, 0, 1], [0, 0, 2]]\n" + rollers).find("two directions apart") !=
          std::string::npos);
    CHECK(told(bar(),
               "[material.m]\nmoduli = [12000, 900, 500]\npoissons_ratios = [0.4, 0.3, 0.35]\nshear_modulus = "
               "800\n" +
                   rollers)
              .find("shear_modulus") != std::string::npos);
}

TEST_CASE("constants of solids that change with the temperature") {
    // Conductivity 1 + T / 100 along x: the integral of it is linear.
    const Level heat = solved(bar(),
                              "[material.m]\nconductivity = \"1 + T / 100\"\n"
                              "[support.hot]\non = \"left\"\npotential = 100\n[support.cold]\non = "
                              "\"right\"\npotential = 0\n"
                              "[quantity.f]\nof = \"reaction_flow\"\non = \"hot\"\n"
                              "[quantity.t]\nof = \"potential\"\nat = [4, 1, 0.5]\n");
    CHECK(value(heat, "f") == doctest::Approx(2 * (100 + 50) / 8.0).epsilon(2e-4));
    CHECK(value(heat, "t") == doctest::Approx(-100 + std::sqrt(10000 + 2 * 100 * 75.0)).epsilon(2e-4));
    // Softer where it is hotter, and more strained: each case by itself.
    const std::string hot =
        "[material.m]\nyoungs_modulus = \"1000 - 4 * T\"\npoissons_ratio = 0.2\nexpansion = "
        "\"1e-4 * (1 + T / 100)\"\n" +
        rollers +
        "[load.pull]\non = \"right\"\ntraction = [6, 0, 0]\n[load.warm]\ntemperature_change = 50\n"
        "[case.cold]\nfactors = { pull = 1 }\n[case.hot]\nfactors = { pull = 1, warm = 1 }\n"
        "[quantity.cold]\nof = \"ux\"\nat = [8, 1, 0.5]\ncase = \"cold\"\n"
        "[quantity.hot]\nof = \"ux\"\nat = [8, 1, 0.5]\ncase = \"hot\"\n";
    const Level both = solved(bar(), hot);
    CHECK(value(both, "cold") == doctest::Approx(8 * 0.006).epsilon(1e-9));
    CHECK(value(both, "hot") == doctest::Approx(8 * (6.0 / 800 + 1e-4 * 1.5 * 50)).epsilon(1e-9));
}

TEST_CASE("stress along lines through a solid, and taken apart through its wall") {
    // Bent by M about y and pulled by N: through the height sxx = N / A + M (z - 1/2) / I, straight.
    const double inertia = 2 * 1.0 / 12;
    const Level l =
        solved(bar(), soft + clamp +
                          "[load.m]\non = \"right\"\nmoment = [0, 5, 0]\n[load.n]\non = \"right\"\nforce = "
                          "[8, 0, 0]\n"
                          "[path.through]\npoints = [[4, 1, 0], [4, 1, 1]]\n"
                          "[path.along]\npoints = [[0, 1, 0.5], [8, 1, 0.5], [8, 2, 0.5]]\n"
                          "[quantity.low]\nof = \"sxx\"\nalong = \"through\"\ntake = \"minimum\"\n"
                          "[quantity.high]\nof = \"sxx\"\nalong = \"through\"\ntake = \"maximum\"\n"
                          "[quantity.membrane]\nof = \"sxx\"\nalong = \"through\"\ntake = \"membrane\"\n"
                          "[quantity.edge]\nof = \"von_mises\"\nalong = \"through\"\ntake = \"linearised\"\n"
                          "[quantity.mean]\nof = \"ux\"\nalong = \"along\"\ntake = \"mean\"\n");
    const double most = 4 + 5 * 0.5 / inertia, least = 4 - 5 * 0.5 / inertia;
    CHECK(value(l, "high") == doctest::Approx(most).epsilon(1e-6));
    CHECK(value(l, "low") == doctest::Approx(least).epsilon(1e-6));
    CHECK(value(l, "membrane") == doctest::Approx(4).epsilon(1e-6));
    CHECK(value(l, "edge") == doctest::Approx(most).epsilon(1e-6));
    // u = 0.004 x on the middle line, and the end's side has 0.032: over 8 and 1 of length.
    CHECK(value(l, "mean") == doctest::Approx((8 * 0.016 + 0.032) / 9).epsilon(1e-4));
    CHECK(told(bar(), soft + clamp +
                          "[load.n]\non = \"right\"\nforce = [8, 0, 0]\n"
                          "[path.out]\npoints = [[0, 5, 5], [8, 5, 5]]\n")
              .find("path.out lies outside the part") != std::string::npos);
    CHECK(told(bar(), soft + clamp +
                          "[load.n]\non = \"right\"\nforce = [8, 0, 0]\n"
                          "[path.half]\npoints = [[4, 1, 0.5], [4, 1, 3]]\n[quantity.m]\nof = \"sxx\"\nalong = "
                          "\"half\"\ntake = \"membrane\"\n")
              .find("leaves the part at") != std::string::npos);
    CHECK(told(bar(), soft + clamp + "[load.n]\non = \"right\"\nforce = [8, 0, 0]\n[path.f]\nfollow = \"right\"\n")
              .find("this is a solid") != std::string::npos);
}

TEST_CASE("what acts on solids in adaptive series, with estimated errors and goals") {
    const Level l = solved(bar("[8, 2, 2]"),
                           "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\ndensity = 2\nconductivity = 3\n"
                           "expansion = 1e-4\n[support.wall]\non = \"left\"\nhold = \"fixed\"\npotential = 80\n"
                           "[support.bed]\non = \"bottom\"\nnormal_stiffness = 4\n"
                           "[load.spin]\nrotation = 0.4\nabout = [[0, 1, 1], [0, 1, 2]]\n"
                           "[load.turn]\non = \"right\"\nmoment = [1, 2, 0]\n"
                           "[load.air]\non = [\"top\", \"right\"]\ntransfer = 0.5\nambient = 10\n"
                           "[quantity.u]\nof = \"uz\"\non = \"right\"\ntake = \"mean\"\n"
                           "[quantity.t]\nof = \"potential\"\non = \"right\"\ntake = \"mean\"\n",
                           "[size]\nglobal = 1.2\n[series.s]\nkind = \"adaptive\"\nerror_target = 0.03\nmost_levels = "
                           "3\n");
    CHECK(l.index > 1);
    CHECK(l.estimated_error < 0.1);
    CHECK(l.solid->cases.front().solution.balance.relative_error < 1e-8);
    const Level fine = solved(bar("[8, 2, 2]"),
                              "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\ndensity = 2\nconductivity = "
                              "3\nexpansion = 1e-4\n[support.wall]\non = \"left\"\nhold = \"fixed\"\npotential = 80\n"
                              "[support.bed]\non = \"bottom\"\nnormal_stiffness = 4\n"
                              "[load.spin]\nrotation = 0.4\nabout = [[0, 1, 1], [0, 1, 2]]\n"
                              "[load.turn]\non = \"right\"\nmoment = [1, 2, 0]\n"
                              "[load.air]\non = [\"top\", \"right\"]\ntransfer = 0.5\nambient = 10\n"
                              "[quantity.u]\nof = \"uz\"\non = \"right\"\ntake = \"mean\"\n"
                              "[quantity.t]\nof = \"potential\"\non = \"right\"\ntake = \"mean\"\n[size]\nglobal = "
                              "0.35\n");
    CHECK(value(l, "u") == doctest::Approx(value(fine, "u")).epsilon(5e-3));
    CHECK(value(l, "t") == doctest::Approx(value(fine, "t")).epsilon(2e-3));
}

TEST_SUITE_END();
