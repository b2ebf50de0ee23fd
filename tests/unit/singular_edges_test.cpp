// Edges of solids along which the stress is infinite: found, and what they do to verdicts.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "part/checks/check_study.hpp"
#include "series/run.hpp"
#include "solve/singular/singular_edges.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

struct Silent : StudyObserver {};

StudyAndPart opened(const std::string& text) {
    Problems problems("test.toml");
    StudyAndPart both = open_study("test.toml", "format = 1\n" + text, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    return both;
}

const std::string steel = "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n";
const std::string series = "[series.uniform]\nkind = \"uniform\"\nmost_levels = 3\nratio = 1.4\n";
/// A plane part, drawn or as it is.
std::string outline(const std::string& corners, const std::string& names, bool drawn) {
    return fmt::format(
        "[part]\n{}\n[[part.shape]]\nadd = \"polygon\"\ncorners = {}\nname = \"skin\"\nnames = {{ {} }}\n",
        drawn ? "extrude = { to = 3 }" : "plane = \"strain\"", corners, names);
}
double least_of(const std::vector<SingularPoint>& points) {
    double least = 1;
    for (const auto& p : points) least = std::min(least, p.exponent);
    return least;
}
std::vector<SingularPoint> edges_of(const StudyAndPart& both) {
    return singular_edges(*both.solid, both.study);
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("edges of drawn parts have the exponents of the plane's corners") {
    struct Drawn {
        std::string corners, support, heat;
    };
    const std::string load = "[load.l]\non = \"side1\"\npressure = 1\n";
    for (const auto& [corners, support, heat] : std::vector<Drawn>{
             {"[[0, 0], [4, 0], [4, 2], [2, 2], [2, 4], [0, 4]]", "[support.s]\non = \"side2\"\nux = 0\nuy = 0\n", ""},
             {"[[0, 0], [4, 0], [4, 3], [1, 4]]", "[support.s]\non = \"side3\"\nhold = \"fixed\"\n", ""},
             {"[[0, 0], [4, 0], [5, 4], [-2, 4]]",
              "[support.a]\non = \"side3\"\nhold = \"symmetry\"\n[support.b]\non = "
              "\"side4\"\nhold = \"symmetry\"\n",
              ""},
             {"[[0, 0], [4, 0], [6, 4], [3, 1.5], [-2, 4]]", "[support.s]\non = \"side2\"\nhold = \"fixed\"\n", ""}}) {
        CAPTURE(corners);
        const std::string names = "side1 = \"side1\", side2 = \"side2\", side3 = \"side3\", side4 = \"side4\"";
        const auto flat = opened(outline(corners, names, false) + steel + support + load + series);
        // Ends in symmetry: the solid is in plane strain.
        std::string text = outline(corners, names, true);
        text.replace(text.find("to = 3"), 6, "to = 3, start = \"below\", end = \"above\"");
        const auto solid = opened(text + steel + support + load + series +
                                  "[support.ends]\non = [\"below\", \"above\"]\nhold = \"symmetry\"\n");
        const double plane = least_of(singular_points(flat.part, flat.study)), edge = least_of(edges_of(solid));
        CHECK(plane < 1);
        CHECK(edge == doctest::Approx(plane).epsilon(1e-6));
    }
}

TEST_CASE(
    "inner edges, rims of held faces and junctions of materials are found wherever they lie; smooth parts have none") {
    // A boss on a plate, turned out of the axes: 270 degrees along a circle (Williams 1952).
    const std::string turned = "rotate = \"25 deg\"\nabout = [[0, 0, 0], [1, 2, 3]]\n";
    const std::string boss =
        "[[part.shape]]\nadd = \"box\"\nsize = [10, 10, 2]\nnames = { bottom = \"foot\" }\nname = \"plate\"\n" +
        turned +
        "[[part.shape]]\nadd = \"cylinder\"\nfrom = [5, 5, 2]\nto = [5, 5, 6]\nradius = 2\nname = "
        "\"boss\"\nnames = { end = \"top\" }\n" +
        turned;
    const std::string rest =
        steel + "[support.s]\non = \"foot\"\nhold = \"fixed\"\n[load.l]\non = \"top\"\npressure = 1\n" + series;
    const auto found = edges_of(opened(boss + rest));
    REQUIRE(found.size() == 2);
    const auto& inner = found[0].kind == SingularPoint::Kind::corner ? found[0] : found[1];
    const auto& rim = found[0].kind == SingularPoint::Kind::corner ? found[1] : found[0];
    CHECK(inner.exponent == doctest::Approx(0.5445).epsilon(1e-3));
    CHECK(inner.cause == "a re-entrant edge of 270° between \"boss\" and \"plate\"");
    double round = 0;
    for (const auto& e : inner.edges) round += e.length();
    CHECK(round == doctest::Approx(4 * std::numbers::pi).epsilon(1e-6));
    CHECK(rim.exponent == doctest::Approx(0.7112).epsilon(1e-3));  // plane strain, nu = 0.3
    CHECK(rim.cause == "the rim of a held face between \"foot\" and \"plate\"");
    CHECK(rim.edges.size() == 4);
    const EdgeDistance away(inner.edges);
    const auto near = away(inner.edges.front().point(0.3), 1);
    CHECK(near.distance < 1e-9);
    CHECK(!std::isfinite(away({{100, 0, 0}}, 5).distance));
    // What is round, or cut by planes of symmetry, has none.
    CHECK(
        edges_of(
            opened(
                "[[part.shape]]\nadd = \"box\"\nsize = [10, 10, 10]\nnames = { left = \"x\", front = \"y\", bottom = "
                "\"z\", top = \"top\" }\n[[part.shape]]\ncut = \"sphere\"\nradius = 3\nname = \"hole\"\n" +
                steel +
                "[support.s]\non = [\"x\", \"y\", \"z\"]\nhold = \"symmetry\"\n[load.l]\non = \"top\"\npressure = 1\n" +
                series))
            .empty());
    // Two materials side by side: at the outside by far less than an inner edge; none where they are alike.
    const auto two = [&](double modulus) {
        return edges_of(opened(
            "[[part.shape]]\nadd = \"box\"\nsize = [2, 2, 2]\nregion = \"a\"\nnames = { left = \"left\" "
            "}\n[[part.shape]]\nadd = \"box\"\ncorner = [2, 0, 0]\nsize = [2, 2, 2]\nregion = \"b\"\nnames = "
            "{ right = \"right\" }\n" +
            steel + fmt::format("[material.n]\non = \"b\"\nyoungs_modulus = {}\npoissons_ratio = 0.3\n", modulus) +
            "[support.s]\non = \"left\"\nux = 0\n[support.t]\non = \"right\"\nux = 0\nuy = 0\nuz = 0\n"
            "[load.l]\non = \"a_and_b\"\ntraction = [1, 0, 0]\n" +
            series));
    };
    const auto joints = [](const std::vector<SingularPoint>& list) {
        return std::count_if(list.begin(), list.end(),
                             [](const SingularPoint& p) { return p.kind == SingularPoint::Kind::junction; });
    };
    CHECK(joints(two(20000)) > 0);
    CHECK(joints(two(1000)) == 0);
    // Of a potential: an inner edge of 270 degrees has two thirds.
    const auto heat = edges_of(opened(boss +
                                      "[material.m]\nconductivity = 2\n[support.s]\non = \"foot\"\npotential = "
                                      "0\n[load.l]\non = \"top\"\nflux = 1\n" +
                                      series));
    REQUIRE(heat.size() == 1);
    CHECK(heat.front().of_potential);
    CHECK(heat.front().exponent == doctest::Approx(2.0 / 3).epsilon(1e-4));
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("series");

TEST_CASE(
    "a peak on the rim of a held face of a solid has no verdict, one elsewhere has, and what slows all is known") {
    const auto both = opened(
        "[[part.shape]]\nadd = \"box\"\nsize = [6, 2, 2]\nnames = { left = \"root\", right = \"tip\", top = \"top\" "
        "}\nname = "
        "\"skin\"\nregion = \"arm\"\n" +
        steel +
        "[support.s]\non = \"root\"\nhold = \"fixed\"\n[load.l]\non = \"tip\"\ntraction = [3, 0, 0]\n[size]\nglobal = "
        "0.8\n[quantity.peak]\nof = \"von_mises\"\non = \"arm\"\ntarget = \"3 %\"\n[quantity.on_rim]\nof = \"sxx\"\nat "
        "= [0, 1, "
        "2]\n[quantity.middle]\nof = \"sxx\"\nat = [3, 1, 1]\n[quantity.stretch]\nof = \"ux\"\non = \"tip\"\ntake = "
        "\"mean\"\n" +
        series);
    Silent silent;
    const StudyResult result = run_study(both, silent);
    REQUIRE(result.singular_places.size() == 2);  // at the top, and at the sides that have one name
    for (const auto& p : result.singular_places) CHECK(p.shows());
    const auto verdict = [&](std::size_t q) -> const QuantityVerdict& { return result.series.front().verdicts[q]; };
    CHECK(verdict(0).verdict == Verdict::unbounded);
    CHECK(has(verdict(0).sentence, "it sits on the rim of a held face"));
    CHECK(has(verdict(0).sentence, "r^-0.29"));
    CHECK(verdict(1).verdict == Verdict::unbounded);
    CHECK(has(verdict(1).sentence, "it is asked for at the rim"));
    CHECK(verdict(2).verdict != Verdict::unbounded);
    CHECK(verdict(3).convergence.expected_order == doctest::Approx(2 * 0.7112).epsilon(1e-3));
    // The same pulled evenly, without what holds it sideways, is smooth.
    const auto smooth = opened(
        "[[part.shape]]\nadd = \"box\"\nsize = [6, 2, 2]\nnames = { left = \"root\", front = \"front\", bottom = "
        "\"bottom\", right "
        "= \"tip\" }\n" +
        steel +
        "[support.s]\non = [\"root\", \"front\", \"bottom\"]\nhold = \"symmetry\"\n[load.l]\non = \"tip\"\ntraction = "
        "[\"3 * y "
        "^ 2\", 0, 0]\n[size]\nglobal = 0.8\n[quantity.stretch]\nof = \"ux\"\non = \"tip\"\ntake = \"mean\"\n" +
        series);
    const StudyResult even = run_study(smooth, silent);
    CHECK(even.singular_places.empty());
    CHECK(even.series.front().verdicts.front().convergence.expected_order == 3);
}

TEST_CASE("edges of orthotropic solids have the exponents of the plane's corners, wherever they run") {
    const std::string corners = "corners = [[0, 0], [4, 0], [4, 2], [2, 2], [2, 4], [0, 4]]\nname = \"skin\"\n";
    const std::string moduli =
        "[material.m]\nmoduli = [9000, 600, 400]\npoissons_ratios = [0.4, 0.3, 0.35]\nconductivity = [9, 1]\n";
    const std::string rest =
        "[support.s]\non = \"skin\"\npotential = 0\n[load.l]\nbody_force = [0, 0]\n[load.q]\nsource = 1\n";
    const auto both_of = [](const std::vector<SingularPoint>& points) {
        std::array<double, 2> least{1, 1};
        for (const auto& p : points) least[p.of_potential] = std::min(least[p.of_potential], p.exponent);
        return least;
    };
    const auto plane = [&](const std::string& text) {
        Problems problems("test.toml");
        const auto both = open_study("test.toml", "format = 1\n" + text, problems);
        return both_of(both.solid ? singular_edges(*both.solid, both.study) : singular_points(both.part, both.study));
    };
    const auto wanted = plane("[part]\nplane = \"strain\"\n[[part.shape]]\nadd = \"polygon\"\n" + corners + moduli +
                              "shear_modulus = 500\nangle = 0.5\n" + rest);
    CHECK(wanted[0] < 0.65);
    CHECK(wanted[1] < 0.9);
    std::string space = rest;
    space.replace(space.find("[0, 0]"), 6, "[0, 0, 0]");
    const std::string solid = "[[part.shape]]\nadd = \"polygon\"\n" + corners + "extrude = { to = 3 }\n";
    const std::string shears = moduli + "shear_modulus = [500, 300, 350]\n";
    // Drawn along z, and turned about y so that the edge runs along x, or about x, along y.
    const auto drawn = plane("[part]\n" + solid + shears + "angle = 0.5\n" + space);
    const auto along_x = plane("[part]\n" + solid + "rotate = \"90 deg\"\nabout = [[0, 0, 0], [0, 1, 0]]\n" + shears +
                               fmt::format("axes = [[0, {}, {}], [0, {}, {}]]\n", std::sin(0.5), -std::cos(0.5),
                                           std::cos(0.5), std::sin(0.5)) +
                               space);
    const auto along_y = plane("[part]\n" + solid + "rotate = \"90 deg\"\nabout = [[0, 0, 0], [1, 0, 0]]\n" + shears +
                               fmt::format("axes = [[{}, 0, {}], [{}, 0, {}]]\n", std::cos(0.5), std::sin(0.5),
                                           -std::sin(0.5), std::cos(0.5)) +
                               space);
    for (const auto& found : {drawn, along_x, along_y})
        for (std::size_t k = 0; k < 2; ++k) CHECK(found[k] == doctest::Approx(wanted[k]).epsilon(1e-6));
}

TEST_CASE("edges of solids show where the loads wake them, and only there") {
    // An L that is drawn, a bar in a wall, a stepped shaft; the rule was chosen on none of these.
    const std::string angle =
        "[part]\nextrude = { to = 3, start = \"below\", end = \"above\" }\n[[part.shape]]\nadd = \"polygon\"\ncorners "
        "= [[0, "
        "0], [4, 0], [4, 2], [2, 2], [2, 4], [0, 4]]\nname = \"skin\"\nnames = { side1 = \"floor\", side2 = \"right\", "
        "side5 = "
        "\"top\", side6 = \"left\" }\n";
    const std::string stepped =
        "[[part.shape]]\nadd = \"cylinder\"\nfrom = [0, 0, 0]\nto = [0, 0, 2]\nradius = 3\nname = \"flange\"\nnames = "
        "{ start = "
        "\"foot\", side = \"rim\" }\n[[part.shape]]\nadd = \"cylinder\"\nfrom = [0, 0, 2]\nto = [0, 0, 5]\nradius = "
        "1.5\nname = "
        "\"shaft\"\nnames = { end = \"end\" }\n";
    const std::string floor =
        "[support.a]\non = \"floor\"\nuy = 0\n[support.b]\non = \"left\"\nux = 0\n[support.c]\non = "
        "\"below\"\nuz = 0\n";
    struct Woken {
        std::string what, study;
        std::size_t shown;
    };
    for (const auto& [what, study, shown] : std::vector<Woken>{
             {"an L, bent", angle + floor + "[load.l]\non = \"top\"\ntraction = [1, 1, 0]\n", 1},
             {"an L, pulled along its edge", angle + floor + "[load.l]\non = \"above\"\ntraction = [0, 0, 2]\n", 0},
             {"an L, sheared along its edge",
              angle +
                  "[support.a]\non = [\"floor\", \"left\"]\nhold = \"antisymmetry\"\n[support.b]\non = [\"above\", "
                  "\"below\"]\nhold = \"antisymmetry\"\n[load.l]\non = \"top\"\ntraction = [0, 0, 1]\n[load.m]\non = "
                  "\"right\"\ntraction = [0, 0, -1]\n",
              1},
             {"a shaft, pulled",
              stepped + "[support.a]\non = \"foot\"\nuz = 0\n[support.b]\non = \"rim\"\nux = 0\nuy = 0\n[load.l]\non = "
                        "\"end\"\ntraction = [0, 0, 1]\n",
              1},
             {"a shaft, twisted",
              stepped + "[support.a]\non = \"rim\"\nux = 0\nuy = 0\n[support.b]\non = \"foot\"\nuz = 0\n[load.l]\non = "
                        "\"end\"\ntraction = "
                        "[\"-y\", \"x\", 0]\n",
              1}}) {
        CAPTURE(what);
        for (const std::string mesh : {"[size]\nglobal = 0.5\nsegments_per_circle = 12\n",
                                       "[size]\nglobal = 0.35\nsegments_per_circle = 16\n[mesh]\norder = 1\n"}) {
            CAPTURE(mesh);
            const auto both = opened(study + steel + mesh +
                                     "[quantity.u]\nof = \"displacement\"\n[series.one]\nkind = "
                                     "\"uniform\"\nmost_levels = 1\n");
            Silent silent;
            const StudyResult result = run_study(both, silent);
            std::size_t count = 0;
            for (const auto& p : result.singular_places)
                count += p.point.kind == SingularPoint::Kind::corner && p.shows();
            CHECK(count == shown);
            CHECK(std::any_of(result.singular_places.begin(), result.singular_places.end(),
                              [](const auto& p) { return p.point.kind == SingularPoint::Kind::corner; }));
        }
    }
}

TEST_CASE("along edges meshes of even elements can be graded only so far") {
    QuantitySpec mean;
    mean.take = Take::mean;
    mean.field = Field::displacement;
    QuantitySpec energy;
    energy.field = Field::strain_energy;
    CHECK(graded_order(energy, 2, 0.5445, true) == doctest::Approx(6 * 0.5445));
    CHECK(graded_order(energy, 2, 0.5445, false) == 4);
    CHECK(graded_order(energy, 2, 0.72, true) == 4);
    CHECK(graded_order(mean, 2, 0.5445, true) == 3);
    CHECK(graded_order(mean, 2, 0.4, true) == doctest::Approx(2.4));
    CHECK(graded_order(energy, 1, 0.5445, true) == 2);
    CHECK(graded_order(energy, 2, 1, true) == 4);
}

TEST_SUITE_END();
