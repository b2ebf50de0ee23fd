// Whole studies of solids from files of facets, and of solids that were cleaned up, against closed forms.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "base/files.hpp"
#include "part/checks/check_study.hpp"
#include "series/run.hpp"
#include "sizes/part_sizes.hpp"
#include "support/facets.hpp"
#include "support/folder.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

constexpr double a = 1, b = 2, height = 0.5, pressure = 3, modulus = 1000, ratio = 0.3;

/// A quarter of a tube with radii 1 and 2, whose facets each stand for so many degrees.
StudyAndPart tube(const Folder& folder, const std::string& body, const std::string& head = "",
                  const std::string& shapes = "", int steps = 18) {
    write_file(folder.path / "tube.stl", facet_file(quarter_tube_facets(a, b, height, steps), "stl"));
    Problems problems("test.toml");
    auto both =
        open_study(folder.path / "test.toml",
                   "format = 1\n" + head +
                       "[part]\n[[part.shape]]\nadd = \"model\"\nunit = \"m\"\nfile = \"tube.stl\"\n" + shapes + body,
                   problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    REQUIRE(both.solid);
    return both;
}

struct Silent : StudyObserver {};

double value(const Level& level, const std::string& name) {
    for (const auto& q : level.quantities)
        if (q.name == name) return q.value;
    FAIL("no quantity ", name);
    return 0;
}

const std::string elastic =
    "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n"
    "[support.s]\non = [\"one\", \"two\", \"foot\", \"top\"]\nhold = \"symmetry\"\n"
    "[load.p]\non = \"inner\"\npressure = 3\n";

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("a thick tube of facets under pressure: every kind of series, points, marks and the exact stress") {
    // Lame, plane strain.
    const double hoop = pressure * (a * a + b * b) / (b * b - a * a);
    const auto moves = [](double r) {
        const double k = pressure * a * a / (b * b - a * a);
        return (1 + ratio) / modulus * k * ((1 - 2 * ratio) * r + b * b / r);
    };
    const std::string marks =
        "[[part.shape]]\nmark = \"point\"\nat = [1, 0, 0.25]\nname = \"mouth\"\n"
        "[[part.shape]]\nmark = \"point\"\nat = [1.5, 0, 0.25]\nname = \"half\"\n";
    const std::string quantities =
        "[quantity.hoop]\nof = \"max_principal\"\non = \"inner\"\ntake = \"mean\"\n"
        "[quantity.mouth]\nof = \"ux\"\nat = \"mouth\"\n[quantity.half]\nof = \"ux\"\nat = \"half\"\n"
        "[quantity.far]\nof = \"uy\"\nat = [0, 2, 0.5]\n"
        "[quantity.inside]\nof = \"ux\"\nat = [1.0606601717798212, 1.0606601717798212, 0.2]\n"
        "[quantity.holds]\nof = \"reaction_y\"\non = \"s\"\n";
    const Folder folder;
    const auto both = tube(folder,
                           elastic +
                               "[size]\nglobal = 0.25\n[size.local.near]\non = \"inner\"\nsize = 0.15\n"
                               "[series.own]\nkind = \"adaptive\"\nerror_target = 0.01\nmost_levels = 3\n"
                               "[series.all]\nkind = \"uniform\"\nmost_levels = 2\n"
                               "[series.some]\nkind = \"local\"\nmost_levels = 2\nrules = \"near\"\n"
                               "[exact_stress]\nsxx = \"srr * cos(theta)^2 + stt * sin(theta)^2\"\n"
                               "syy = \"srr * sin(theta)^2 + stt * cos(theta)^2\"\n"
                               "sxy = \"(srr - stt) * sin(theta) * cos(theta)\"\nszz = 0.6\nsyz = 0\nszx = 0\n" +
                               quantities,
                           "[variables]\nsrr = \"1 - 4 / r^2\"\nstt = \"1 + 4 / r^2\"\n", marks);
    Silent silent;
    const auto result = run_study(both, silent);
    REQUIRE(result.series.size() == 3);
    for (const auto& series : result.series) {
        CAPTURE(series.name);
        const Level& l = series.levels.back();
        CHECK(value(l, "hoop") == doctest::Approx(hoop).epsilon(1e-2));  // its mean: peaks of coarse meshes are wider
        CHECK(value(l, "mouth") == doctest::Approx(moves(a)).epsilon(2e-3));
        CHECK(value(l, "half") == doctest::Approx(moves(1.5)).epsilon(2e-3));
        CHECK(value(l, "far") == doctest::Approx(moves(b)).epsilon(2e-3));
        CHECK(value(l, "inside") == doctest::Approx(moves(1.5) / std::sqrt(2)).epsilon(2e-3));
        CHECK(value(l, "holds") == doctest::Approx(-pressure * a * height).epsilon(1e-3));
        REQUIRE(l.true_error);
        CHECK(effectivity(l).value_or(0) == doctest::Approx(1).epsilon(0.15));
    }
}

TEST_CASE("heat through a tube of facets") {
    const Folder folder;
    const auto both = tube(folder,
                           "[material.m]\nconductivity = 2\n[support.hot]\non = \"inner\"\npotential = 100\n"
                           "[support.cold]\non = \"outer\"\npotential = 0\n[size]\nglobal = 0.2\n"
                           "[series.own]\nkind = \"uniform\"\nmost_levels = 1\n"
                           "[quantity.flow]\nof = \"reaction_flow\"\non = \"hot\"\n"
                           "[quantity.middle]\nof = \"potential\"\nat = [1.4142135623730951, 0, 0.25]\n");
    Silent silent;
    const Level l = run_study(both, silent).series.front().levels.back();
    CHECK(value(l, "flow") == doctest::Approx(pi / 2 * height * 2 * 100 / std::log(b / a)).epsilon(1e-3));
    CHECK(value(l, "middle") == doctest::Approx(50).epsilon(1e-3));
}

TEST_CASE("a mirrored tube of facets under pressure moves the other way") {
    const Folder folder;
    const auto both = tube(folder,
                           elastic + "[series.own]\nkind = \"uniform\"\nmost_levels = 1\n" +
                               "[quantity.mouth]\nof = \"ux\"\nat = [-1, 0, 0.25]\n",
                           "", "mirror = [[0, 0, 0], [0, 1, 0], [0, 0, 1]]\n");
    Silent silent;
    const double k = pressure * a * a / (b * b - a * a);
    CHECK(value(run_study(both, silent).series.front().levels.back(), "mouth") ==
          doctest::Approx(-(1 + ratio) / modulus * k * ((1 - 2 * ratio) * a + b * b / a)).epsilon(5e-3));
}

TEST_CASE("a bar that was cleaned up pulls as one that never had holes") {
    const std::string bar =
        "[[part.shape]]\nadd = \"box\"\nsize = [8, 2, 2]\nnames = { left = \"left\", right = \"right\", front = "
        "\"front\", "
        "bottom = \"bottom\" }\n"
        "[[part.shape]]\ncut = \"cylinder\"\nfrom = [4, 1, -1]\nto = [4, 1, 3]\nradius = 0.3\nname = \"bore\"\n"
        "[[part.shape]]\nchange = \"round\"\nnear = [[4, 2, 2]]\nradius = 0.4\n"
        "[part.cleanup]\nfill_holes_below = 1\nremove_rounds_below = 0.5\nkeep_centres = \"was#\"\n";
    Problems problems("test.toml");
    const auto both =
        open_study("test.toml",
                   "format = 1\n[part]\n" + bar +
                       "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n"
                       "[support.x]\non = \"left\"\nhold = \"symmetry\"\n[support.y]\non = \"front\"\nhold = "
                       "\"symmetry\"\n[support.z]\non = \"bottom\"\nhold = \"symmetry\"\n"
                       "[load.p]\non = \"right\"\ntraction = [5, 0, 0]\n"
                       "[series.own]\nkind = \"uniform\"\nmost_levels = 1\n"
                       "[quantity.end]\nof = \"ux\"\nat = [8, 1, 1]\n[quantity.was]\nof = \"sxx\"\nat = \"was1\"\n",
                   problems);
    INFO(problems.text());
    REQUIRE(both.solid);
    REQUIRE(problems.empty());
    Silent silent;
    const Level l = run_study(both, silent).series.front().levels.back();
    CHECK(value(l, "end") == doctest::Approx(8 * 0.005).epsilon(1e-9));
    CHECK(value(l, "was") == doctest::Approx(5).epsilon(1e-9));
}

TEST_CASE("so many elements go across a wall of facets, however many those are") {
    const Folder folder;
    for (const int steps : {6, 60}) {
        const auto both =
            tube(folder, elastic + "[size]\nglobal = 0.6\n[size.local.wall]\nacross = 8\n", "", "", steps);
        const auto field = sizing_of(*both.solid, both.study.sizes, both.study.path).field;
        // The wall is 1 thick, and the piece of tube 0.5 high.
        const double turn = 1.5 / std::sqrt(2.0);
        CHECK(field.at({{turn, turn, 0.25}}) == doctest::Approx(1.0 / 16).epsilon(2e-2));
        const auto of_wall = tube(
            folder, elastic + "[size]\nglobal = 0.6\n[size.local.wall]\non = \"inner\"\nacross = 8\n", "", "", steps);
        CHECK(sizing_of(*of_wall.solid, of_wall.study.sizes, of_wall.study.path)
                  .field.at({{1.2 / std::sqrt(2.0), 1.2 / std::sqrt(2.0), 0.25}}) ==
              doctest::Approx(1.0 / 8).epsilon(3e-2));
    }
}

TEST_SUITE_END();
