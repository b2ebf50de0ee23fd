// Rounds, bevels, walls and tapers of solids: closed forms, names, what they meet, faults.

#include <cmath>
#include <numbers>

#include "mesh/solid/generate_solid.hpp"
#include "part/solid/body_finder.hpp"
#include "quality/quality.hpp"
#include "sizes/part_sizes.hpp"
#include "support/space_shapes.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

const std::string plate = "add box | size = [40, 30, 12] | names = { top = \"top\", front = \"front\" }";
const std::string post =
    "add cylinder | from = [20, 15, 12] | to = [20, 15, 30] | radius = 8 | names = { side = \"post\", end = \"cap\" }";
const std::string foot = "change round | between = [\"top\", \"post\"] | radius = 3 | name = \"foot\"";
// Two pipes that cross, and the round between them, which is a spline surface.
const std::vector<std::string> tee{
    "add cylinder | from = [-40, 0, 0] | to = [40, 0, 0] | radius = 15 | names = { side = \"run\", start = \"inlet\", "
    "end = \"outlet\" }",
    "add cylinder | from = [0, 0, 0] | to = [0, 0, 40] | radius = 9 | names = { side = \"branch\", end = \"mouth\" }",
    "change round | between = [\"run\", \"branch\"] | radius = 4 | name = \"crotch\""};

std::vector<std::string> with(std::vector<std::string> list, const std::vector<std::string>& more) {
    list.insert(list.end(), more.begin(), more.end());
    return list;
}

doctest::Approx about(double value) {
    return doctest::Approx(value).epsilon(1e-9);
}

/// Of the space between a quarter circle of radius r and its two tangents: area, and distance of its centroid from
/// them.
double corner_area(double r) {
    return (1 - pi / 4) * r * r;
}
double corner_centroid(double r) {
    return r * (10 - 3 * pi) / (12 - 3 * pi);
}

/// The mesh with sizes of its own: none upside down, and the part's volume.
void check_mesh(const SolidPart& part, double size) {
    SizeSpec sizes;
    sizes.global = size;
    const SolidMesh mesh = generate_solid(part, sizing_of(part, sizes, ""), 200000, 2);
    const auto quality = measure_quality(mesh, {});
    for (const double j : quality[static_cast<std::size_t>(Criterion::jacobian_ratio)]) CHECK(j > 0);
    for (const double shape : quality[static_cast<std::size_t>(Criterion::shape)]) CHECK(shape > 0.2);
    CHECK(mesh.measure() == doctest::Approx(volume(part)).epsilon(2e-3));
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("rounds and bevels come to their closed forms") {
    struct Known {
        std::vector<std::string> shapes;
        double volume;
    };
    const double a = 36, b = 26, c = 8, r = 2, block = 40 * 30 * 12, pillar = 64 * pi * 18;
    for (const Known& k : std::vector<Known>{
             // All edges: a smaller box, slabs on it, quarter cylinders, eighths of a sphere.
             {{plate, "change round | corners = \"all\" | radius = 2 | count = 12"},
              a * b * c + 2 * r * (a * b + b * c + c * a) + pi * r * r * (a + b + c) + 4 * pi / 3 * r * r * r},
             {{plate, "change bevel | near = [[20, 0, 12]] | length = 2 | name = \"cut\""}, block - 40 * 2},
             {{plate, post, foot}, block + pillar + 2 * pi * (8 + corner_centroid(3)) * corner_area(3)},
             {{plate, post, "change round | between = [\"cap\", \"post\"] | radius = 3"},
              block + pillar - 2 * pi * (8 - corner_centroid(3)) * corner_area(3)},
             {{plate, post, "change bevel | corners = \"inner\" | length = 3"},
              block + pillar + 2 * pi * (8 + 1) * 4.5},
             // A bore's rim, and inner edges alone.
             {{plate, "cut cylinder | from = [20, 15, -1] | to = [20, 15, 13] | radius = 8 | name = \"bore\"",
               "change round | between = [\"top\", \"bore\"] | radius = 3"},
              block - 64 * pi * 12 - 2 * pi * (8 + corner_centroid(3)) * corner_area(3)},
             {{plate, "cut box | corner = [10, -1, 6] | size = [20, 40, 10] | name = \"slot\"",
               "change round | corners = \"inner\" | radius = 4 | count = 2"},
              block - 20 * 30 * 6 + 2 * 30 * corner_area(4)},
         }) {
        CAPTURE(k.shapes.back());
        CHECK(volume(solid(k.shapes)) == about(k.volume));
    }
}

TEST_CASE("walls and tapers come to their closed forms") {
    CHECK(volume(solid({plate, "change hollow | wall = 2 | open = \"top\" | name = \"inside\""})) ==
          about(14400 - 36.0 * 26 * 10));
    CHECK(volume(solid({plate, "change hollow | wall = 2"})) == about(14400 - 36.0 * 26 * 8));
    CHECK(volume(solid({"add cylinder | from = [0, 0, 0] | to = [0, 0, 20] | radius = 10 | names = { end = \"end\" }",
                        "change hollow | wall = 1.5 | open = \"end\""})) == about(pi * (100 * 20 - 8.5 * 8.5 * 18.5)));
    CHECK(volume(solid({"add sphere | radius = 10", "change hollow | wall = 1"})) == about(4 * pi / 3 * 271));
    const double t = std::tan(5 * pi / 180);
    // The section at height z is (40 - 2 t z) by (30 - 2 t z).
    const auto part =
        solid({"add rectangle | size = [40, 30] | name = \"side\" | extrude = { to = 20, taper = \"5 deg\", "
               "start = \"low\", end = \"high\" }"});
    CHECK(volume(part) == about(1200 * 20 - 140 * t * 200 + 4 * t * t * 8000 / 3));
    CHECK(area_named(part, "low") == about(1200));
    CHECK(area_named(part, "high") == about((40 - 40 * t) * (30 - 40 * t)));
    CHECK(part.faces_named({"side"}).size() == 4);
    // A disc becomes a cone; with a negative angle it widens.
    for (const double sign : {1.0, -1.0}) {
        const double low = 10, high = 10 - sign * 12 * std::tan(3 * pi / 180);
        CHECK(volume(solid({"add circle | radius = 10 | extrude = { to = 12, taper = \"" +
                            std::string(sign > 0 ? "" : "-") + "3 deg\" }"})) ==
              about(pi * 12 / 3 * (low * low + low * high + high * high)));
    }
}

TEST_CASE("faces keep their names through rounds and walls, and new ones have theirs") {
    const auto part = solid({plate, post, foot});
    CHECK(part.faces_named({"foot"}).size() == 3);
    CHECK(part.faces_named({"post"}).size() == 3);
    CHECK(area_named(part, "front") == about(40 * 12));
    CHECK(area_named(part, "post") == about(2 * pi * 8 * 15));
    CHECK(area_named(part, "top") == about(40 * 30 - 121 * pi));
    // The inside of a torus: 2 pi (R pi r / 2 - r r) with R at the middle of its section.
    CHECK(area_named(part, "foot") == about(2 * pi * (11 * 3 * pi / 2 - 9)));
    const auto tub = solid({plate, "change hollow | wall = 2 | open = \"top\" | name = \"inside\""});
    CHECK(area_named(tub, "top") == about(40 * 30 - 36 * 26));
    CHECK(area_named(tub, "inside") == about(36 * 26 + 2 * 10 * (36 + 26)));
    CHECK(tub.faces_named({"inside"}).size() == 5);
}

TEST_CASE("a round between crossing pipes is smooth to both, and a wall has its thickness everywhere") {
    const auto full = solid(tee);
    CHECK(full.faces_named({"crotch"}).size() == 3);
    CHECK(volume(full) > volume(solid({tee[0], tee[1]})));
    for (const int f : full.faces_named({"crotch"}))
        for (const auto& use : full.face(f).loops.front()) {
            int other = -1;
            for (std::size_t g = 0; g < full.faces.size(); ++g)
                for (const auto& loop : full.faces[g].loops)
                    for (const auto& u : loop)
                        if (u.edge == use.edge && static_cast<int>(g) != f) other = static_cast<int>(g);
            REQUIRE(other >= 0);
            const Vec3 p = full.edge(use.edge).curve.point(0.4);
            const Surface &a = full.face(f).surface, &b = full.face(other).surface;
            CHECK(distance(a.point(a.project(p)), p) < 1e-4);
            CHECK(dot(a.normal(a.project(p)), b.normal(b.project(p))) > 1 - 1e-5);
        }
    const auto wall =
        solid(with(tee, {"change hollow | wall = 2.5 | open = [\"inlet\", \"outlet\", \"mouth\"] | name = \"bore\""}));
    const BodyFinder finder(wall);
    for (const int f : wall.faces_named({"bore"})) {
        const Surface& s = wall.face(f).surface;
        for (const Vec2& at : finder.places_on(static_cast<std::size_t>(f), 6)) {
            const Vec3 p = s.point(at), n = s.normal(at);
            double least = INFINITY;
            for (const int g : wall.faces_named({"run", "branch", "crotch"})) {
                const Surface& out = wall.face(g).surface;
                const Vec3 q = out.point(out.project(p));
                if (finder.inside_face(static_cast<std::size_t>(g), q)) least = std::min(least, distance(q, p));
            }
            CHECK(least == doctest::Approx(2.5).epsilon(3e-4));  // offsets of splines are approximate
            CHECK(finder(p - n * 1.2) == 0);
            CHECK(finder(p + n * 1.2) == -1);
        }
    }
    check_mesh(wall, 5);
}

TEST_CASE("rounds, walls and tapers meet all that shapes do") {
    const double whole = volume(solid(tee));
    // Cut in half, mirrored, moved, repeated, beside another region, marked, and cut again.
    CHECK(volume(solid(with(tee, {"cut plane | at = [0, 0, 0] | normal = [0, 1, 0] | name = \"half\""}))) ==
          doctest::Approx(whole / 2).epsilon(1e-6));
    CHECK(volume(solid(with(tee, {"change mirror | mirror = [[60, 0, 0], [60, 1, 0], [60, 0, 1]]"}))) ==
          doctest::Approx(2 * whole).epsilon(1e-6));
    const auto turned = solid(with(tee, {"change rotate | rotate = \"30 deg\" | about = [[0, 0, 0], [1, 2, 3]]"}));
    CHECK(volume(turned) == doctest::Approx(whole).epsilon(1e-6));
    CHECK(volume(solid(with(tee, {"change repeat | repeat = 2 | step = [100, 0, 0]"}))) ==
          doctest::Approx(2 * whole).epsilon(1e-6));
    const auto plugged = solid(with(
        tee, {"add cylinder | from = [-40, 0, 0] | to = [-30, 0, 0] | radius = 5 | region = \"plug\" | name = \"p\""}));
    CHECK(plugged.bodies.size() == 2);
    CHECK(volume(plugged) == doctest::Approx(whole).epsilon(1e-6));
    const auto drilled = solid({plate, post, foot,
                                "cut cylinder | from = [20, 15, -1] | to = [20, 15, 31] | radius = 3 | name = \"bore\"",
                                "change round | between = [\"cap\", \"bore\"] | radius = 1 | name = \"lip\"",
                                "mark point | at = [20, 0, 12] | name = \"gauge\""});
    CHECK(drilled.points_named({"gauge"}).size() == 1);
    CHECK(volume(drilled) == about(14400 + 64 * pi * 18 + 2 * pi * (8 + corner_centroid(3)) * corner_area(3) -
                                   9 * pi * 30 - 2 * pi * (3 + corner_centroid(1)) * corner_area(1)));
    check_mesh(drilled, 4);
    // A hole through a round, and a region on it.
    const auto pierced =
        solid({plate, "change round | near = [[20, 0, 12]] | radius = 6 | name = \"soft\"",
               "cut cylinder | from = [20, -5, 17] | to = [20, 15, -3] | radius = 2 | name = \"duct\""});
    CHECK(pierced.faces_named({"duct"}).size() > 0);
    check_mesh(pierced, 3);
    check_mesh(solid({"add rectangle | size = [40, 30] | round = 5 | extrude = { to = 20, taper = \"8 deg\" }",
                      "change hollow | wall = 2"}),
               4);
}

TEST_CASE("what does not fit, or fits nothing, is told with what would") {
    struct Wrong {
        std::vector<std::string> shapes;
        std::string what;
    };
    for (const Wrong& w : std::vector<Wrong>{
             {{plate, "change round | near = [[20, 0, 12]] | radius = 20"}, "the largest that fits is about 12"},
             {{plate, "change round | near = [[20, 3, 12]] | radius = 2"}, "there is no edge at (20, 3, 12)"},
             {{plate, "change round | near = [[20, 3, 12]] | radius = 2"}, "the nearest one is at (20, 0, 12)"},
             {{plate, "change round | between = [\"top\", \"frnt\"] | radius = 2"}, "did you mean \"front\"?"},
             {{plate, "change round | between = [\"top\", \"top\"] | radius = 2"}, "no edge fits this choice"},
             {{plate, "change round | corners = \"inner\" | radius = 2"}, "no edge fits this choice"},
             {{plate, "change round | corners = \"all\" | radius = 2 | count = 11"}, "11 edges were expected, but 12"},
             {{plate, "change round | corners = \"all\""}, "lacks the key \"radius\""},
             {{plate, "change bevel | corners = \"all\" | radius = 1"}, ".radius has no meaning"},
             {{plate, "change round | radius = 2"}, "near = [[x, y, z]]"},
             // Where the pipes nearly have one radius the geometry library pinches this round.
             {{"add cylinder | from = [-15, 0, 0] | to = [15, 0, 0] | radius = 3.96872 | name = \"run\"",
               "add cylinder | from = [0, 0, 0] | to = [0, 0, 14] | radius = 3.2879646 | name = \"neck\"",
               "change round | radius = 0.584122 | between = [\"run\", \"neck\"]"},
              "its faces do not meet near"},
             {{plate, "change hollow | open = \"top\""}, "lacks the key \"wall\""},
             {{plate, "change hollow | wall = 7"}, "a wall of 7 does not fit"},
             {{plate, "change hollow | wall = 2 | open = \"tip\""}, "no face is named \"tip\""},
             {{plate, "change hollow | wall = 2 | radius = 3"}, ".radius has no meaning"},
             {{plate, "add box | corner = [40, 0, 0] | size = [5, 30, 12] | region = \"other\"",
               "change hollow | wall = 1"},
              "2 bodies"},
             {{"add rectangle | size = [40, 30] | extrude = { to = 20, taper = \"85 deg\" }"}, "steeper than 80"},
             {{"add rectangle | size = [40, 30] | extrude = { to = 60, taper = \"20 deg\" }"}, "cannot be made"},
         }) {
        CAPTURE(w.shapes.back());
        const std::string told = faults(w.shapes);
        CAPTURE(told);
        CHECK(told.find(w.what) != std::string::npos);
        CHECK(told.find("unexpected") == std::string::npos);
    }
}

TEST_SUITE_END();
