// Peaks that sit where the exact stress is infinite, and peaks that do not.

#include "series/singular_places.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "series/run.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr double pi = 3.141592653589793;

StudyResult run(const std::string& text) {
    Problems problems("test.toml");
    const StudyAndPart both = open_study("test.toml", text, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    StudyObserver silent;
    return run_study(both.study, both.part, silent);
}

/// A pulled plate with a notch of this opening (degrees), sharp or rounded.
std::string notched(double opening, double round) {
    const double half = 1.5 * std::tan(opening * pi / 360);
    return fmt::format(
        "format = 1\n[part]\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [8, 0], [8, 4], [{}, 4], [4, 2.5], "
        "[{}, "
        "4], [0, 4]]\n{}names = {{ side2 = \"right\", side7 = \"left\", side1 = \"bottom\" "
        "}}\n[material.m]\nyoungs_modulus "
        "= 1000\npoissons_ratio = 0.3\n[support.x]\non = \"left\"\nhold = \"symmetry\"\n[support.y]\nat = [0, 0]\nuy = "
        "0\n[load.p]\non = \"right\"\ntraction = [1, 0]\n[quantity.peak]\nof = \"max_principal\"\ntarget = "
        "0.05\n[quantity.move]\nof "
        "= \"ux\"\ntake = \"mean\"\non = \"right\"\n[size]\nglobal = 0.6\n[series.u]\nkind = \"uniform\"\nmost_levels "
        "= 2\n",
        4 + half, 4 - half, round > 0 ? fmt::format("rounds = {{ 5 = {} }}\n", round) : "");
}

}  // namespace

TEST_SUITE_BEGIN("series");

TEST_CASE("of twenty sharp notches none is missed, of twenty round ones none is accused") {
    for (int k = 0; k < 20; ++k) {
        const double opening = 12 + 5.5 * k, angle = (360 - opening) * pi / 180;
        INFO("opening ", opening);
        const auto sharp = run(notched(opening, 0));
        REQUIRE(sharp.singular_places.size() == 1);
        const SingularPlace& place = sharp.singular_places.front();
        CHECK(distance(place.point.position, {{4, 2.5}}) < 1e-9);
        // sin(lambda angle) = -lambda sin(angle), by bisection
        double low = 0.4, high = 0.99;
        const auto gap = [&](double x) { return std::sin(x * angle) + x * std::sin(angle); };
        for (int step = 0; step < 60; ++step) {
            const double m = (low + high) / 2;
            (gap(low) * gap(m) <= 0 ? high : low) = m;
        }
        CHECK(place.point.exponent == doctest::Approx(low).epsilon(0.001));
        CHECK(place.shows());
        const auto& verdicts = sharp.series.front().verdicts;
        CHECK(verdicts[0].verdict == Verdict::unbounded);
        CHECK(has(verdicts[0].sentence, "does not converge"));
        CHECK(has(verdicts[0].sentence, "re-entrant corner"));
        CHECK(has(verdicts[0].sentence, "round the corner"));
        CHECK(!sharp.all_targets_met());
        CHECK(verdicts[1].verdict != Verdict::unbounded);  // displacements are finite
        const auto round = run(notched(opening, std::min(0.2, std::tan(opening * pi / 360))));
        CHECK(round.singular_places.empty());
        CHECK(round.series.front().verdicts[0].verdict != Verdict::unbounded);
    }
}

TEST_CASE("a singular point that the load does not wake does not show, and a peak elsewhere keeps its verdict") {
    const std::string bar =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = \"left\", right = "
        "\"right\" }\n[[part.shape]]\ncut = \"circle\"\ncentre = [2.5, 1]\nradius = 0.4\nname = "
        "\"hole\"\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.wall]\non = \"left\"\nhold = "
        "\"fixed\"\n[load.p]\non = \"right\"\ntraction = [1, 0]\n[quantity.at_hole]\nof = \"max_principal\"\non = "
        "\"hole\"\n[quantity.at_wall]\nof = \"max_principal\"\non = \"left\"\n[quantity.warm]\nformula = \"at_hole * "
        "2\"\n[size]\nglobal = 0.4\n[series.u]\nkind = \"uniform\"\nmost_levels = 3\n";
    const auto r = run(bar);
    REQUIRE(r.singular_places.size() == 2);
    const auto& v = r.series.front().verdicts;
    CHECK(v[0].verdict == Verdict::no_target);
    CHECK(v[1].verdict == Verdict::unbounded);
    CHECK(has(v[1].sentence, "it sits on the end of a support"));
    CHECK(v[2].verdict != Verdict::unbounded);
    // Without a load its corners are at rest.
    std::string still = bar;
    still.replace(still.find("traction = [1, 0]"), 17, "traction = [0, 0]");
    for (const auto& p : run(still).singular_places) CHECK(!p.shows());
}

TEST_CASE("each load case is judged by what shows in its own solution") {
    // A bar between fixed ends: only the pull wakes the corners of its left end; the force acts in the last case alone.
    const auto r = run(
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nnames = { left = \"left\", right = "
        "\"right\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.wall]\non = \"left\"\nhold = "
        "\"fixed\"\n[load.rest]\non = \"right\"\ntraction = [0, 0]\n[load.pull]\non = \"right\"\ntraction = [1, 0]\n"
        "[load.prick]\nat = [4, 2]\nforce = [0, -1]\n[case.still]\nfactors = { rest = 1 }\n[case.pulled]\nfactors = { "
        "pull = 1 }\n"
        "[case.pricked]\nfactors = { prick = 1 }\n"
        "[quantity.still]\nof = \"max_principal\"\non = \"left\"\ncase = \"still\"\n"
        "[quantity.pulled]\nof = \"max_principal\"\non = \"left\"\ncase = \"pulled\"\n"
        "[size]\nglobal = 0.4\n[series.u]\nkind = \"uniform\"\nmost_levels = 3\n");
    REQUIRE(r.singular_places.size() == 3);
    for (const auto& p : r.singular_places) {
        const bool force = p.point.kind == SingularPoint::Kind::force;
        CHECK(std::count(p.shows_in.begin(), p.shows_in.end(), "still") == 0);
        CHECK(std::count(p.shows_in.begin(), p.shows_in.end(), "pulled") == (force ? 0 : 1));
        if (force) CHECK(p.shows_in == std::vector<std::string>{"pricked"});
    }
    const auto& v = r.series.front().verdicts;
    CHECK(v[0].verdict == Verdict::no_target);
    CHECK(v[1].verdict == Verdict::unbounded);
}

TEST_CASE("junctions, support ends, single forces, slits and heated corners; and their harmless likes") {
    const std::string box =
        "format = 1\n[part]\nname = \"left_half\"\n[[part.shape]]\nadd = \"rectangle\"\nsize = [3, 2]\nnames = { left "
        "= \"left\", bottom = \"bottom\", top = \"top\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [3, 0]\nsize "
        "= "
        "[3, 2]\nregion = \"right_half\"\nnames = { right = \"right\", bottom = \"bottom\", top = \"top\" }\n";
    const std::string one = "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n";
    const std::string two =
        "[material.soft]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[material.stiff]\non = "
        "\"right_half\"\nyoungs_modulus = 100000\npoissons_ratio = 0.3\n";
    const std::string pull = "[load.p]\non = \"right\"\ntraction = [1, 0]\n";
    const std::string sliding = "[support.x]\non = \"left\"\nhold = \"symmetry\"\n[support.y]\nat = [0, 0]\nuy = 0\n";
    const std::string peak =
        "[quantity.peak]\nof = \"von_mises\"\n[size]\nglobal = 0.5\n[series.u]\nkind = \"uniform\"\n"
        "most_levels = 3\n";
    struct Kind {
        std::string name, singular, harmless, cause;
    };
    const std::string plate =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [6, 2]\nnames = { left = \"left\", right = "
        "\"right\", top = \"top\" }\n";
    const std::string slit = "[[part.shape]]\ncut = \"polygon\"\ncorners = [[2.99, 2], [3, 1], [3.01, 2]]\n",
                      slot = "[[part.shape]]\ncut = \"slot\"\nfrom = [3, 3]\nto = [3, 1.3]\nwidth = 0.6\n";
    const std::string corner =
        "format = 1\n[part]\n[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [2, 0], [2, 1], [1, 1], [1, 2], [0, "
        "2]]\nnames = { side3 = \"cold\", side4 = \"cold\", corner4 = \"cold\", side1 = \"warm\" }\n";
    const std::string heat =
        "[material.m]\nconductivity = 1\n[support.cold]\non = \"cold\"\npotential = 0\n[load.warm]\non = "
        "\"warm\"\nflux = 1\n[quantity.peak]\nof = \"flux\"\n[size]\nglobal = 0.25\n[series.u]\nkind = "
        "\"uniform\"\nmost_levels = 3\n";
    std::string rounded = corner;
    rounded.replace(rounded.find("names ="), 7, "rounds = { 4 = 0.3 }\nnames =");
    const std::vector<Kind> kinds{
        {"junction", box + two + sliding + pull + peak, box + one + sliding + pull + peak, "a junction of materials"},
        {"support end", plate + one + "[support.x]\non = \"left\"\nhold = \"fixed\"\n" + pull + peak,
         plate + one + sliding + pull + peak, "the end of a support"},
        {"single force",
         plate + one +
             "[support.x]\non = \"left\"\nhold = \"symmetry\"\n[support.y]\nat = [0, 0]\nuy = 0\n"
             "[load.f]\nat = [6, 2]\nforce = [1, 0]\n" +
             peak,
         plate + one + sliding + pull + peak, "the point of the force f"},
        {"slit", plate + slit + one + sliding + pull + peak, plate + slot + one + sliding + pull + peak, "corner"},
        {"heated corner", corner + heat, rounded + heat, "corner"}};
    for (const auto& kind : kinds) {
        CAPTURE(kind.name);
        const auto bad = run(kind.singular), good = run(kind.harmless);
        REQUIRE(!bad.singular_places.empty());
        const auto& verdict = bad.series.front().verdicts[0];
        CAPTURE(verdict.sentence);
        CHECK(verdict.verdict == Verdict::unbounded);
        CHECK(has(verdict.sentence, kind.cause));
        CAPTURE(good.series.front().verdicts[0].sentence);
        CHECK(good.series.front().verdicts[0].verdict != Verdict::unbounded);
    }
}

TEST_SUITE_END();
