// Boundaries followed as lines: their lengths and order, quantities and curves along them.

#include <doctest/doctest.h>

#include <cmath>
#include <numbers>

#include "evidence/levels/path_files.hpp"
#include "mesh/boundary_line.hpp"
#include "quantities/path.hpp"
#include "series/path_story.hpp"
#include "support/solved.hpp"
#include "support/study_run.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// A plate of 8 x 4 with a hole of radius 1 in its middle, pulled along x.
std::string plate(const std::string& rest, const std::string& mesh = "") {
    return "[[part.shape]]\nadd = \"rectangle\"\nsize = [8, 4]\nnames = { left = \"left\", right = \"right\", top = "
           "\"top\", "
           "bottom = \"bottom\" }\n[[part.shape]]\ncut = \"circle\"\ncentre = [4, 2]\nradius = 1\nname = \"hole\"\n"
           "[[part.shape]]\nmark = \"point\"\nat = [8, 4]\nname = \"corner\"\n[material.m]\nyoungs_modulus = "
           "1000\npoissons_ratio = 0.3\n[support.s]\non = \"left\"\nhold = \"symmetry\"\n[support.p]\nat = [0, 0]\nuy "
           "= "
           "0\n[load.l]\non = \"right\"\ntraction = [10, 0]\n[size]\nglobal = 0.7\n" +
           mesh + rest;
}

BoundaryLine line_of(const SolvedCases& s, const std::vector<std::string>& names, std::optional<Vec2> from = {},
                     std::optional<Vec2> to = {}) {
    return boundary_line(s.mesh, names, from, to);
}

Vec2 begin_of(const SolvedCases& s, const BoundaryLine& line) {
    const auto& p = line.pieces.front();
    return point_on(s.mesh, s.mesh.boundary[p.boundary], p.from);
}

Vec2 end_of(const SolvedCases& s, const BoundaryLine& line) {
    const auto& p = line.pieces.back();
    return point_on(s.mesh, s.mesh.boundary[p.boundary], p.to);
}

void check_at(const Vec2& found, const Vec2& wanted) {
    CAPTURE(found[0]);
    CAPTURE(found[1]);
    CHECK(distance(found, wanted) < 1e-9);
}

}  // namespace

TEST_SUITE_BEGIN("quantities");

TEST_CASE("lines run from end to end with the material on the left, or between two places either way") {
    for (const std::string mesh : {"", "[mesh]\norder = 1\n", "[mesh]\nelements = \"quadrilaterals\"\n"}) {
        CAPTURE(mesh);
        const auto s = solve_cases_of(plate("[quantity.q]\nof = \"ux\"\n", mesh));
        const auto right = line_of(s, {"right"});
        CHECK(right.length == doctest::Approx(4));
        CHECK(!right.closed);
        check_at(begin_of(s, right), {{8, 0}});
        check_at(end_of(s, right), {{8, 4}});
        const auto corner = line_of(s, {"right", "top"});
        CHECK(corner.length == doctest::Approx(12));
        REQUIRE(corner.corners.size() == 1);
        CHECK(corner.corners.front().first == doctest::Approx(4));
        check_at(s.mesh.nodes[static_cast<std::size_t>(corner.corners.front().second)], {{8, 4}});
        const auto part = line_of(s, {"right", "top"}, Vec2{{8, 1.1}}, Vec2{{6.3, 4}});
        CHECK(part.length == doctest::Approx(2.9 + 1.7));
        check_at(begin_of(s, part), {{8, 1.1}});
        check_at(end_of(s, part), {{6.3, 4}});
        const auto back = line_of(s, {"right", "top"}, Vec2{{6.3, 4}}, Vec2{{8, 1.1}});
        CHECK(back.length == doctest::Approx(4.6));
        check_at(begin_of(s, back), {{6.3, 4}});
        check_at(end_of(s, back), {{8, 1.1}});
        double sum = 0;
        for (const auto& p : back.pieces) {
            CHECK(p.begin == doctest::Approx(sum));
            sum += p.length;
        }
        // Two boundaries apart: the one nearest to where it is to begin.
        CHECK(line_of(s, {"left", "hole"}, Vec2{{0.2, 3}}).length == doctest::Approx(3));
        CHECK(line_of(s, {"nothing"}).pieces.empty());
    }
}

TEST_CASE("a closed line goes once round, from a place on it if one is told") {
    const auto s = solve_cases_of(plate("[quantity.q]\nof = \"ux\"\n"));
    const double whole = 2 * std::numbers::pi;
    for (const std::optional<Vec2> from :
         {std::optional<Vec2>{}, std::optional(Vec2{{4, 3}}), std::optional(Vec2{{3.1, 1.5}}),
          std::optional(Vec2{{4, 1}}), std::optional(Vec2{{5, 2}})}) {
        const auto round = line_of(s, {"hole"}, from);
        CHECK(round.closed);
        CHECK(round.length == doctest::Approx(whole).epsilon(1e-4));
        CHECK(distance(begin_of(s, round), end_of(s, round)) < 1e-9);
        if (from)
            CHECK(distance(begin_of(s, round), Vec2{{4, 2}} + (*from - Vec2{{4, 2}}) / distance(*from, {{4, 2}})) <
                  2e-3);
    }
    // With the material on the left, a hole is gone round clockwise: from its top to its right a quarter, back three.
    CHECK(line_of(s, {"hole"}, Vec2{{4, 3}}, Vec2{{5, 2}}).length == doctest::Approx(whole / 4).epsilon(1e-3));
    CHECK(line_of(s, {"hole"}, Vec2{{5, 2}}, Vec2{{4, 3}}).length == doctest::Approx(3 * whole / 4).epsilon(1e-3));
}

TEST_CASE("quantities along a boundary: means over a part of it, extremes, integrals") {
    const auto s = solve_cases_of(plate(
        "[path.upper]\nfollow = \"right\"\nfrom = [8, 2]\n[path.two]\nfollow = [\"right\", \"top\"]\nto = \"corner\"\n"
        "[path.rim]\nfollow = \"hole\"\nfrom = [4, 3]\nsamples = 201\n"
        "[quantity.pull]\nof = \"sxx\"\ntake = \"mean\"\nalong = \"upper\"\n"
        "[quantity.whole]\nof = \"sxx\"\ntake = \"integral\"\nalong = \"two\"\n"
        "[quantity.radial]\nof = \"srr\"\ntake = \"mean\"\nalong = \"rim\"\nabout = [4, 2]\n"
        "[quantity.hoop]\nof = \"stt\"\nalong = \"rim\"\nabout = [4, 2]\n"
        "[quantity.edge]\nof = \"stt\"\non = \"hole\"\nabout = [4, 2]\n"
        "[quantity.force]\nof = \"section_force_x\"\nalong = \"two\"\n"));
    CHECK(s.value("pull") == doctest::Approx(10).epsilon(1e-3));
    CHECK(s.value("whole") == doctest::Approx(40).epsilon(1e-3));
    CHECK(std::fabs(s.value("radial")) < 0.05);  // free
    CHECK(s.value("hoop") == doctest::Approx(s.value("edge")).epsilon(5e-3));
    CHECK(std::fabs(s.value("force")) == doctest::Approx(40).epsilon(1e-3));
    Level level;
    level.fields = std::make_shared<const LevelFields>(LevelFields{s.mesh, s.laws, s.cases, {}, {}});
    const std::string csv = path_csv(s.both.study, level, s.both.study.paths[2]);
    CHECK(std::count(csv.begin(), csv.end(), '\n') == 202);
}

TEST_CASE("the tangent of a boundary looks the way that it is gone, either way round") {
    const auto s = solve_cases_of(
        plate("[path.there]\nfollow = [\"right\", \"top\"]\n[path.back]\nfollow = [\"right\", \"top\"]\nfrom = [6.3, "
              "4]\nto = "
              "[8, 1.1]\n[path.round]\nfollow = \"hole\"\nfrom = [5, 2]\nto = [4, 3]\n[quantity.q]\nof = \"ux\"\n"));
    const ElementLocator locator(s.mesh);
    for (const auto& path : s.both.study.paths) {
        CAPTURE(path.name);
        const auto points = sample_path(path, locator);
        REQUIRE(points.size() > 10);
        for (std::size_t k = 1; k < points.size(); ++k) {
            const Vec2 way = points[k].position - points[k - 1].position;
            CHECK(norm(points[k].tangent) == doctest::Approx(1));
            // Not where a corner lies between the two.
            if (std::fabs(points[k].position[0] - 8) > 0.2 || std::fabs(points[k].position[1] - 4) > 0.2)
                CHECK(dot(points[k].tangent, way) > 0.9 * norm(way));
        }
    }
}

TEST_CASE("paths on boundaries that do not make one line are told") {
    const auto faults = [](const std::string& path) {
        return faults_of("format = 1\n" + plate("[path.p]\n" + path + "[quantity.q]\nof = \"ux\"\nalong = \"p\"\n"));
    };
    CHECK(faults("follow = \"hole\"\n").empty());
    CHECK(has(faults("follow = [\"left\", \"right\"]\n"), "make 2 lines apart"));
    CHECK(faults("follow = [\"left\", \"right\"]\nfrom = [0, 4]\n").empty());
    CHECK(has(faults("follow = \"hoel\"\n"), "did you mean \"hole\"?"));
    CHECK(has(faults("follow = \"hole\"\nfrom = \"cornre\"\n"), "did you mean \"corner\"?"));
    CHECK(has(faults("points = [[0, 0], [1, 1]]\nfrom = [0, 0]\n"), "from goes with follow"));
    CHECK(has(faults("follow = \"hole\"\npoints = [[0, 0], [1, 1]]\n"), "stands beside"));
    CHECK(has(faults(""), "needs one of"));
    CHECK(has(faults_of("format = 1\n" + plate("[path.p]\nfollow = \"hole\"\n[quantity.q]\nof = \"sxx\"\ntake = "
                                               "\"linearised\"\nalong = \"p\"\n")),
              "straight through a wall"));
    CHECK(has(faults_of("format = 1\n" + plate("[path.p]\nfollow = \"hole\"\n[quantity.q]\nof = \"sxx\"\ntake = "
                                               "\"mean\"\ndual = true\nalong = \"p\"\n")),
              "or along a boundary"));
}

TEST_CASE("the interval along a curve holds the closed form nearly everywhere") {
    // A quarter of a thick tube: hoop stress a (1 + (ro / r)^2).
    const auto m = run_text(
        "format = 1\n[[part.shape]]\nadd = \"circle\"\nradius = 5\nname = \"outside\"\n[[part.shape]]\ncut = "
        "\"circle\"\nradius = 3\nname = \"inside\"\n[[part.shape]]\nintersect = \"rectangle\"\nsize = [9, 9]\nnames = "
        "{ left = "
        "\"left\", bottom = \"bottom\" }\n[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.l]\non = "
        "\"left\"\nhold = \"symmetry\"\n[support.b]\non = \"bottom\"\nhold = \"symmetry\"\n[load.p]\non = "
        "\"inside\"\npressure = 10\n[size]\nglobal = 0.9\n[quantity.q]\nof = \"von_mises\"\n[path.wall]\npoints = [[3, "
        "0], "
        "[5, 0]]\nsamples = 41\n[series.uniform]\nkind = \"uniform\"\nmost_levels = 4\n[series.adaptive]\nkind = "
        "\"adaptive\"\nmost_levels = 2\n");
    const auto story = path_story(m.result, m.opened.study.paths.front(), Field::syy);
    CHECK(story.told == finest_level(m.result)->series);
    REQUIRE(story.curves.size() == 3);
    CHECK(story.band.size() == 41);
    int held = 0;
    for (const auto& [at, low, high] : story.band) {
        const double a = 10 * 9 / 16.0, exact = a * (1 + 25 / std::pow(3 + at, 2));
        held += low <= exact && exact <= high ? 1 : 0;
        CHECK(high - low < 0.2 * exact);
    }
    CHECK(held >= 37);
}

TEST_SUITE_END();
