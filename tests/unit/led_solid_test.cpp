// Shapes led along paths, and wedges: closed forms, names, faults.

#include <cmath>
#include <numbers>

#include "part/solid/body_finder.hpp"
#include "support/space_shapes.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

doctest::Approx about(double value) {
    return doctest::Approx(value).epsilon(1e-9);
}

/// A straight piece, a quarter turn to the left, a straight one, a quarter turn upwards, a straight one.
const std::string path =
    "sweep = { from = [0, 0, 0], path = [{ to = [40, 0, 0] }, { to = [60, 20, 0], through = [54.142135623730951, "
    "5.857864376269049, 0] }, { to = [60, 50, 0] }, { to = [60, 65, 15], through = [60, 60.606601717798213, "
    "4.393398282201787] }, { to = [60, 65, 35] }], start = \"root\", end = \"tip\" }";
const double length = 40 + 10 * pi + 30 + 7.5 * pi + 20;

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("a shape led along lines and arcs has the volume of its section times its path") {
    // Sections whose centroid lies on the path (Pappus).
    const auto bar = solid({"add rectangle | corner = [-4, -2] | size = [8, 4] | name = \"bar\" | " + path});
    CHECK(volume(bar) == about(32 * length));
    CHECK(area_named(bar, "root") == about(32));
    CHECK(area_named(bar, "tip") == about(32));
    CHECK(area_named(bar, "bar") == about(24 * length));
    CHECK(bar.bodies.size() == 1);
    const auto rod = solid({"add circle | radius = 3 | " + path});
    CHECK(volume(rod) == about(9 * pi * length));
    // Off the path: each turn takes the radius of the section's own centroid.
    const auto off = solid({"add rectangle | corner = [1, -2] | size = [4, 4] | " + path});
    CHECK(volume(off) == about(16 * (40 + 30 + 20 + (20 - 3) * pi / 2 + 15 * pi / 2)));
    const BodyFinder finder(rod);
    const double h = std::sqrt(0.5);
    for (const Vec3& on :
         std::vector<Vec3>{{{20, 0, 0}}, {{40 + 20 * h, 20 - 20 * h, 0}}, {{60, 35, 0}}, {{60, 65, 25}}})
        CHECK(finder(on + Vec3{{0, 0, 0.5}}) == 0);
    CHECK(finder({{60, 0, 0}}) == -1);
}

TEST_CASE("led shapes stand upright, close to a helix's turn, and meet the others") {
    // The section's y is up: a tall rectangle stays tall.
    const auto tall =
        solid({"add rectangle | corner = [-1, 0] | size = [2, 10] | "
               "sweep = { from = [0, 0, 0], path = [{ to = [10, 10, 0] }] }"});
    CHECK(tall.box.high[2] == about(10));
    CHECK(tall.box.low[2] == about(0));
    const auto up =
        solid({"add rectangle | corner = [-1, 0] | size = [2, 10] | "
               "sweep = { from = [0, 0, 0], path = [{ to = [0, 0, 5] }] }"});
    CHECK(up.box.high[1] == about(10));
    // A duct cut through a block, with rounds at its mouth.
    const auto block = solid({"add box | corner = [-5, -10, -10] | size = [60, 20, 20] | names = { left = \"left\" }",
                              "cut circle | radius = 3 | name = \"duct\" | sweep = { from = [-6, 0, 0], path = [{ to = "
                              "[20, 0, 0] }, { to = [30, 0, 10], through = [27.071067811865476, 0, 2.928932188134524] "
                              "}, { to = [30, 0, 11] }] }",
                              "change round | between = [\"left\", \"duct\"] | radius = 1"});
    const double duct = 9 * pi * 25 + 9 * pi * 5 * pi;
    const double lip = 2 * pi * (3 + (10 - 3 * pi) / (12 - 3 * pi)) * (1 - pi / 4);
    CHECK(volume(block) == about(60 * 20 * 20 - duct - lip));
}

TEST_CASE("a wedge is a prism") {
    const auto wedge =
        solid({"add wedge | corner = [1, 2, 3] | size = [40, 20, 12] | tip = 10 | names = { right = "
               "\"slope\", top = \"crest\", left = \"root\", front = \"front\", back = \"back\", bottom = "
               "\"base\" }"});
    CHECK(volume(wedge) == about(25 * 12 * 20));
    CHECK(distance(measure(wedge).centroid, Vec3{{15, 12, 7.8}}) < 1e-9);
    CHECK(area_named(wedge, "slope") == about(20 * std::hypot(30, 12)));
    CHECK(area_named(wedge, "crest") == about(200));
    CHECK(area_named(wedge, "root") == about(240));
    CHECK(area_named(wedge, "front") == about(300));
    CHECK(wedge.faces_named({"back"}).size() == 1);
    CHECK(wedge.face(wedge.faces_named({"back"}).front()).surface.point({})[1] == about(22));
    CHECK(volume(solid({"add wedge | size = [40, 20, 12] | name = \"w\""})) == about(20 * 12 * 20));
}

TEST_CASE("faults of paths and wedges tell where") {
    const std::string disc = "add circle | radius = 3 | sweep = ";
    struct Wrong {
        std::string shape, what;
    };
    for (const Wrong& w : std::vector<Wrong>{
             {disc + "{ from = [0, 0, 0], path = [{ to = [10, 0, 0] }, { to = [10, 10, 0] }] }",
              "the path has a corner at (10, 0, 0)"},
             {disc + "{ from = [0, 0, 0], path = [{ to = [4, 0, 0], through = [2, 2, 0] }] }", "has a radius of 2"},
             {disc + "{ from = [0, 0, 0], path = [{ to = [4, 0, 0], through = [2, 0, 0] }] }", "is straight"},
             {disc + "{ from = [0, 0, 0], path = [{ to = [0, 0, 0] }] }", "the path stays at (0, 0, 0)"},
             {disc + "{ from = [0, 0, 0], path = [] }", "must be an array of tables"},
             {disc + "{ from = [0, 0, 0] }", "lacks the key \"path\""},
             {disc + "{ path = [{ to = [10, 0, 0] }] }", "lacks the key \"from\""},
             {disc + "{ from = [0, 0, 0], path = [{ through = [10, 0, 0] }] }", "lacks the key \"to\""},
             {disc + "{ from = [0, 0, 0], path = [{ to = [10, 0, 0] }] } | extrude = { to = 3 }", "stands beside"},
             {"add wedge | size = [40, 20, 12] | tip = 40", "shorter than the lower one"},
             {"add wedge | size = [40, 20, 12] | names = { top = \"x\" }", "names no side of this shape"},
             {"add wedge | size = [40, -20, 12]", "greater than zero"},
         }) {
        CAPTURE(w.shape);
        const std::string told = faults({w.shape});
        CAPTURE(told);
        CHECK(told.find(w.what) != std::string::npos);
        CHECK(told.find("unexpected") == std::string::npos);
    }
}

TEST_SUITE_END();
