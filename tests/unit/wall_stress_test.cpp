// Stress on a line through a wall, taken apart.

#include <doctest/doctest.h>

#include <cmath>

#include "evidence/levels/path_files.hpp"
#include "quantities/path.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

std::optional<WallStressIn<2>> wall_of(const SolvedCases& s, std::size_t load_case = 0) {
    const ElementLocator locator(s.mesh);
    return wall_stress<2>(s.both.study.paths.front(), {s.mesh, s.laws, s.cases[load_case], {}}, locator);
}

/// A quarter of a tube, 3 to 5, under a pressure of 10 inside.
std::string tube(const std::string& plane, const std::string& path) {
    return R"([[part.shape]]
add = "circle"
radius = 5
name = "outside"
[[part.shape]]
cut = "circle"
radius = 3
name = "inside"
[[part.shape]]
intersect = "rectangle"
size = [9, 9]
names = { left = "left", bottom = "bottom" }
[part]
plane = ")" +
           plane +
           R"("
[material.m]
youngs_modulus = 1000
poissons_ratio = 0.3
[support.l]
on = "left"
hold = "symmetry"
[support.b]
on = "bottom"
hold = "symmetry"
[load.p]
on = "inside"
pressure = 10
[size]
global = 0.25
[quantity.q]
of = "ux"
[path.wall]
)" + path;
}

}  // namespace

TEST_SUITE_BEGIN("quantities");

TEST_CASE("through a bent bar there is bending alone, in the line's own axes whatever its direction") {
    for (const bool along_y : {true, false}) {
        const auto s = solve_cases_of(std::string(R"([[part.shape]]
add = "rectangle"
)") +
                                      (along_y ? "size = [8, 2]\nnames = { left = \"held\", right = \"bent\" }\n"
                                               : "size = [2, 8]\nnames = { bottom = \"held\", top = \"bent\" }\n") +
                                      R"([material.m]
youngs_modulus = 1000
poissons_ratio = 0
[support.s]
on = "held"
hold = "fixed"
[load.l]
on = "bent"
)" + (along_y ? "traction = [\"6 * (y - 1)\", 0]\n" : "traction = [0, \"6 * (x - 1)\"]\n") +
                                      R"([quantity.q]
of = "ux"
[path.wall]
)" + (along_y ? "points = [[4, 2], [4, 0]]\n" : "points = [[2, 4], [0, 4]]\n"));
        const auto wall = wall_of(s);
        REQUIRE(wall.has_value());
        CHECK(wall->start.bending[1] == doctest::Approx(6).epsilon(1e-6));  // across the line
        CHECK(wall->end.bending[1] == doctest::Approx(-6).epsilon(1e-6));
        for (const auto* end : {&wall->start, &wall->end}) {
            CHECK(std::fabs(end->membrane[1]) < 1e-6);
            CHECK(std::fabs(end->bending[0]) < 1e-6);
            for (const double x : end->peak) CHECK(std::fabs(x) < 1e-6);
        }
    }
}

TEST_CASE("through a thick tube membrane, bending and peak are those of the closed form") {
    // Hoop stress a (1 + (ro / r)^2), radial a (1 - (ro / r)^2) with a = p ri^2 / (ro^2 - ri^2) (Lame 1852).
    const auto s = solve_cases_of(tube("strain",
                                       "points = [[2.12132034356, 2.12132034356], [3.5355339059, "
                                       "3.5355339059]]\n"));
    const auto wall = wall_of(s);
    REQUIRE(wall.has_value());
    const double ri = 3, ro = 5, t = 2, a = 10 * 9 / 16.0, b = a * ro * ro;
    const double mean = a + b / (ri * ro);
    // 6 / t^2 times the integral of b / r^2 (t / 2 - (r - ri)) over the wall
    const double bending = 6 / (t * t) * b * ((t / 2 + ri) * (1 / ri - 1 / ro) - std::log(ro / ri));
    const double inside = a + b / (ri * ri), outside = a + b / (ro * ro);
    CHECK(wall->start.membrane[1] == doctest::Approx(mean).epsilon(1e-3));
    CHECK(wall->start.bending[1] == doctest::Approx(bending).epsilon(2e-3));
    CHECK(wall->start.whole[1] == doctest::Approx(inside).epsilon(1e-3));
    CHECK(wall->start.peak[1] == doctest::Approx(inside - mean - bending).epsilon(1e-2));
    CHECK(wall->end.peak[1] == doctest::Approx(outside - mean + bending).epsilon(1e-2));
    CHECK(wall->start.whole[0] == doctest::Approx(-10).epsilon(1e-3));
    CHECK(std::fabs(wall->end.whole[0]) < 1e-2);
    CHECK(std::fabs(wall->start.membrane[2]) < 1e-2);  // no shear
    CHECK(wall->start.whole[3] == doctest::Approx(0.3 * (inside - 10)).epsilon(1e-3));
}

TEST_CASE("in a body of revolution the hoop stress has its own place, in each load case") {
    const auto s = solve_cases_of(R"([part]
plane = "axisymmetric"
[[part.shape]]
add = "rectangle"
corner = [3, 0]
size = [2, 1]
names = { left = "inside", right = "outside", bottom = "ends", top = "ends" }
[material.m]
youngs_modulus = 1000
poissons_ratio = 0.3
[support.e]
on = "ends"
hold = "symmetry"
[load.inner]
on = "inside"
pressure = 10
[load.outer]
on = "outside"
pressure = 10
[case.filled]
factors = { inner = 1 }
[case.both]
factors = { inner = 1, outer = 1 }
[size]
global = 0.2
[quantity.q]
of = "ux"
[path.wall]
points = [[3, 0.5], [5, 0.5]]
)");
    const auto filled = wall_of(s), both = wall_of(s, 1);
    REQUIRE(filled.has_value());
    REQUIRE(both.has_value());
    const double ri = 3, ro = 5, a = 10 * 9 / 16.0, b = a * ro * ro;
    CHECK(filled->start.membrane[3] == doctest::Approx(a + b / (ri * ro)).epsilon(1e-3));
    CHECK(filled->start.whole[3] == doctest::Approx(a + b / (ri * ri)).epsilon(1e-3));
    CHECK(filled->end.whole[3] == doctest::Approx(a + b / (ro * ro)).epsilon(1e-3));
    CHECK(filled->start.whole[0] == doctest::Approx(-10).epsilon(1e-3));
    CHECK(filled->start.whole[1] == doctest::Approx(0.3 * 2 * a).epsilon(1e-3));  // held along the axis
    for (const auto* end : {&both->start, &both->end}) {                          // the same pressure on both sides
        CHECK(end->membrane[0] == doctest::Approx(-10));
        CHECK(end->membrane[3] == doctest::Approx(-10));
        CHECK(std::fabs(end->bending[3]) < 1e-8);
        CHECK(std::fabs(end->peak[3]) < 1e-8);
    }
}

TEST_CASE("the table has a row for each part and end, its CSV all digits, and lines that leave the part none") {
    const auto s = solve_cases_of(tube("stress", "points = [[3, 0.5], [4.9, 0.5]]\n"));
    LevelFields f;
    f.mesh = s.mesh;
    f.laws = s.laws;
    f.cases = s.cases;
    Level level;
    level.fields = std::make_shared<const LevelFields>(std::move(f));
    const Study& study = s.both.study;
    const Table table = wall_table(study, level, study.paths.front());
    REQUIRE(table.rows.size() == 10);
    CHECK(table.headings.size() == 8);
    CHECK(table.rows[0][1].text == "membrane");
    for (std::size_t c = 2; c < 6; ++c)  // membrane, bending and peak are the whole
        CHECK(table.rows[0][c].sorted_by + table.rows[1][c].sorted_by + table.rows[3][c].sorted_by ==
              doctest::Approx(table.rows[4][c].sorted_by));
    const std::string csv = wall_csv(table);
    CHECK(has(csv, "end,part of the stress,along the line [Pa]"));
    CHECK(has(csv, "\nend,peak,"));
    PathSpec path;
    path.points = {{{0, 0.5}}, {{4.9, 0.5}}};
    CHECK(wall_table(study, level, path).rows.empty());
    path.points = {{{3.5, 0.5}}, {{4, 0.5}}, {{4, 1}}};
    CHECK(wall_table(study, level, path).rows.empty());
}

TEST_SUITE_END();
