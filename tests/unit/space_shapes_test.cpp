// Shapes of space and their booleans: closed forms, names, regions, places, and random chains.

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "base/files.hpp"
#include "part/solid/body_finder.hpp"
#include "part/solid/placed_solid.hpp"
#include "support/solid_chains.hpp"
#include "support/space_shapes.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

double region_volume(const SolidPart& part, const std::string& name) {
    double sum = 0;
    for (std::size_t b = 0; b < part.bodies.size(); ++b)
        if (part.regions[static_cast<std::size_t>(part.bodies[b].region)] == name) sum += measure_body(part, b).size;
    return sum;
}

doctest::Approx about(double value) {
    return doctest::Approx(value).epsilon(1e-9);
}

const std::string ten = "add box | size = [10, 10, 10]";

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("volume, area and centroid of shapes of space are those of their closed forms") {
    struct Known {
        std::string shape;
        double volume, area;
        Vec3 centroid;
    };
    const double slope = std::hypot(9, 3);
    for (const Known& k : std::vector<Known>{
             {"box | corner = [1, 2, 3] | size = [2, 4, 6]", 48, 88, {{2, 4, 6}}},
             {"cylinder | from = [1, 2, 3] | to = [4, 6, 3] | radius = 2", 20 * pi, 28 * pi, {{2.5, 4, 3}}},
             {"cone | from = [0, 0, 0] | to = [0, 0, 9] | radii = [6, 3]",
              189 * pi,
              9 * pi * slope + 45 * pi,
              {{0, 0, 99.0 / 28}}},
             {"cone | from = [0, 0, 0] | to = [0, 0, 8] | radii = [6, 0]", 96 * pi, 96 * pi, {{0, 0, 2}}},
             {"cone | from = [0, 0, 8] | to = [0, 0, 0] | radii = [0, 6]", 96 * pi, 96 * pi, {{0, 0, 2}}},
             {"sphere | centre = [1, 2, 3] | radius = 10", 4000 * pi / 3, 400 * pi, {{1, 2, 3}}},
             {"ring | centre = [1, 2, 3] | normal = [1, 2, 2] | radii = [10, 3]",
              180 * pi * pi,
              120 * pi * pi,
              {{1, 2, 3}}},
             {"rectangle | size = [10, 6] | round = 2 | extrude = { to = 4 }",
              4 * (60 - (4 - pi) * 4),
              2 * (60 - (4 - pi) * 4) + 4 * (16 + 4 * pi),
              {{5, 3, 2}}},
             {"rectangle | corner = [5, 0] | size = [3, 8] | revolve = {}", 312 * pi, 208 * pi + 78 * pi, {{0, 4, 0}}},
         }) {
        CAPTURE(k.shape);
        const SolidPart part = solid({"add " + k.shape + " | name = \"all\""});
        const SolidMeasures m = measure(part);
        CHECK(m.size == about(k.volume));
        CHECK(distance(m.centroid, k.centroid) < 1e-9 * part.box.diagonal());
        CHECK(area_named(part, "all") == about(k.area));
        CHECK(part.bodies.size() == 1);
    }
    const SolidPart ring = solid({"add ring | centre = [1, 2, 3] | radii = [10, 3]"});
    CHECK(distance(ring.box.low, {{-12, -11, 0}}) < 1e-9);
    CHECK(distance(ring.box.high, {{14, 15, 6}}) < 1e-9);
    // Where the ring is cut away its bulge does not count.
    const SolidPart half = solid({"add ring | radii = [10, 3]", "cut plane | at = [0, 0, 1] | normal = [0, 0, 1]"});
    CHECK(half.box.high[2] == about(1));
    CHECK(half.box.low[2] == about(-3));
}

TEST_CASE("booleans of solids come to their closed forms") {
    struct Known {
        std::vector<std::string> list;
        double volume;
        std::size_t bodies;
    };
    const std::string rod = "cylinder | from = [-20, 0, 0] | to = [20, 0, 0] | radius = 5",
                      across = "cylinder | from = [0, -20, 0] | to = [0, 20, 0] | radius = 5",
                      block = "box | corner = [-10, -10, -10] | size = [20, 20, 20]", ball = "sphere | radius = 10";
    for (const Known& k : std::vector<Known>{
             {{ten, "cut sphere | radius = 6"}, 1000 - 36 * pi, 1},
             {{ten, "cut sphere | centre = [5, 5, 5] | radius = 3"}, 1000 - 36 * pi, 1},
             {{"add " + rod, "intersect " + across}, 2000.0 / 3, 1},
             {{"add " + block, "cut " + rod, "cut " + across}, 8000 - 1000 * pi + 2000.0 / 3, 1},
             {{"add " + ball, "intersect sphere | centre = [12, 0, 0] | radius = 10"}, 832 * pi / 3, 1},
             {{"add " + ball, "cut plane | at = [0, 0, 0] | normal = [1, 2, 2]"}, 2000 * pi / 3, 1},
             {{"add " + ball, "intersect plane | at = [0, 0, 5] | normal = [0, 0, 1]"}, pi * 25 * 25 / 3, 1},
             {{"add " + ball, "split plane | at = [0, 0, 3] | normal = [0, 0, 1]"}, 4000 * pi / 3, 2},
             {{"add " + ball, "cut cylinder | from = [0, 0, -11] | to = [0, 0, 11] | radius = 6"}, 4 * pi / 3 * 512, 1},
             {{"add ring | radii = [10, 3]", "cut plane | at = [0, 0, 0] | normal = [0, 0, 1]"}, 90 * pi * pi, 1},
             {{"add ring | radii = [10, 3]", "cut plane | at = [0, 0, 0] | normal = [1, 1, 0]"}, 90 * pi * pi, 1},
             {{ten, "add box | corner = [5, 5, 5] | size = [10, 10, 10]"}, 1875, 1},
             {{ten, "add box | corner = [20, 0, 0] | size = [5, 5, 5]"}, 1125, 2},
             {{ten, "add sphere | centre = [5, 5, 10] | radius = 4"}, 1000 + 128 * pi / 3, 1},
             {{"add cylinder | from = [0, 0, 0] | to = [0, 0, 5] | radius = 30",
               "cut cylinder | from = [20, 0, -1] | to = [20, 0, 6] | radius = 3 | repeat = 8 | around = [[0, 0, 0], "
               "[0, 0, 1]]"},
              5 * pi * (900 - 72),
              1},
             {{"add rectangle | size = [10, 6] | extrude = { to = 4 }",
               "cut circle | centre = [5, 3] | radius = 1 | extrude = { from = -1, to = 5 }"},
              4 * (60 - pi),
              1},
         }) {
        CAPTURE(shapes(k.list));
        const SolidPart part = solid(k.list);
        CHECK(volume(part) == about(k.volume));
        CHECK(part.bodies.size() == k.bodies);
    }
}

TEST_CASE("plane shapes that the part draws come first, shapes of space then work on them") {
    const SolidPart part = solid_from(
        "format = 1\n[part]\nextrude = { to = 4, end = \"lid\" }\n[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 6]\n"
        "region = \"plate\"\nname = \"rim\"\n[[part.shape]]\ncut = \"circle\"\ncentre = [3, 3]\nradius = 1\nname = "
        "\"hole\"\n"
        "[[part.shape]]\nadd = \"cylinder\"\nfrom = [7, 3, 4]\nto = [7, 3, 9]\nradius = 2\nregion = \"pin\"\n"
        "[[part.shape]]\ncut = \"cylinder\"\nfrom = [-1, 3, 2]\nto = [2.5, 3, 2]\nradius = 0.5\nname = \"drill\"\n");
    CHECK(region_volume(part, "pin") == about(20 * pi));
    CHECK(area_named(part, "plate_and_pin") == about(4 * pi));
    CHECK(area_named(part, "lid") == about(60 - pi));  // beneath the pin, too
    CHECK(!part.faces_named({"drill"}).empty());
    CHECK(!part.faces_named({"hole"}).empty());
}

TEST_CASE("sides of shapes keep their names, and faces that lie on each other have both") {
    const SolidPart part =
        solid({ten + " | names = { left = \"l\", right = \"r\", front = \"f\", back = \"b\", bottom = "
                     "\"u\", top = \"o\" }",
               "cut cylinder | from = [5, 5, 2] | to = [5, 5, 12] | radius = 2 | name = \"bore\" | names "
               "= { start = \"floor\" }"});
    for (const auto& [name, where] : std::vector<std::pair<std::string, Vec3>>{{"l", {{0, 5, 5}}},
                                                                               {"r", {{10, 5, 5}}},
                                                                               {"f", {{5, 0, 5}}},
                                                                               {"b", {{5, 10, 5}}},
                                                                               {"u", {{5, 5, 0}}},
                                                                               {"o", {{5, 5, 10}}},
                                                                               {"floor", {{5, 5, 2}}},
                                                                               {"bore", {{5, 5, 6}}}}) {
        CAPTURE(name);
        Vec3 sum{};
        double area = 0;
        for (const int f : part.faces_named({name})) {
            const SolidMeasures m = measure_face(part, static_cast<std::size_t>(f));
            sum += m.centroid * m.size;
            area += m.size;
        }
        CHECK(distance(sum / area, where) < 1e-9);
    }
    CHECK(area_named(part, "bore") == about(2 * pi * 2 * 8));
    const SolidPart both = solid({ten + " | names = { top = \"a\" }",
                                  "cut box | corner = [2, 2, -1] | size = [3, 3, 11] | names = { top = \"c\" }",
                                  "add box | corner = [2, 2, 5] | size = [3, 3, 5] | names = { top = \"d\" }"});
    CHECK(area_named(both, "d") == about(9));
    CHECK(area_named(both, "a") == about(100));  // where it lies on the others, too
}

TEST_CASE("regions take place from each other by order and priority, and name the faces between them") {
    const std::string first = ten + " | region = \"one\"",
                      second = "add sphere | centre = [10, 5, 5] | radius = 3 | region = \"two\"";
    const SolidPart part = solid({first, second});
    CHECK(region_volume(part, "one") == about(1000 - 18 * pi));
    CHECK(region_volume(part, "two") == about(36 * pi));
    CHECK(area_named(part, "one_and_two") == about(18 * pi));
    for (const int f : part.faces_named({"one_and_two"})) CHECK(part.face(f).behind < part.face(f).before);
    const SolidPart kept = solid({first + " | priority = 1", second});
    CHECK(region_volume(kept, "one") == about(1000));
    CHECK(region_volume(kept, "two") == about(18 * pi));
    const SolidPart cut = solid({first, second, "cut plane | at = [0, 5, 0] | normal = [0, 1, 0] | of = \"one\""});
    CHECK(region_volume(cut, "one") == about(500 - 9 * pi));
    CHECK(region_volume(cut, "two") == about(36 * pi));
    const SolidPart named =
        solid_from(shapes({first, second}) + "[part.interface.seat]\nbetween = [\"two\", \"one\"]\n");
    CHECK(area_named(named, "seat") == about(18 * pi));
    CHECK(named.faces_named({"one_and_two"}).empty());
}

TEST_CASE("shapes of space are put by mirrors, turns, moves and copies, and so is all that stands above") {
    const std::string cone = "add cone | from = [5, 0, 0] | to = [5, 0, 9] | radii = [4, 2] | name = \"k#\"";
    const double one = 84 * pi;
    const SolidPart mirrored = solid({cone + " | mirror = [[0, 0, 0], [0, 1, 0], [0, 0, 1]]"});
    CHECK(volume(mirrored) == about(one));
    CHECK(measure(mirrored).centroid[0] == about(-5));
    const SolidPart turned = solid({cone + " | rotate = \"90 deg\" | about = [[0, 0, 0], [0, 1, 0]]"});
    CHECK(distance(measure(turned).centroid, {{measure(solid({cone})).centroid[2], 0, -5}}) < 1e-9);
    // A grid that a variable leaves one row is still written as one.
    CHECK(measure(solid({cone + " | repeat = [3, 1] | step = [[20, 0, 0], [0, 20, 0]]"})).size ==
          doctest::Approx(measure(solid({cone + " | repeat = 3 | step = [20, 0, 0]"})).size));
    const SolidPart row = solid({cone + " | repeat = [2, 3] | step = [[20, 0, 0], [0, 20, 0]]"});
    CHECK(volume(row) == about(6 * one));
    CHECK(row.bodies.size() == 6);
    CHECK(row.faces_named({"k6"}).size() == row.faces_named({"k1"}).size());
    const SolidPart pair = solid({cone, "change mirror | mirror = [[0, 0, 0], [0, 1, 0], [0, 0, 1]]"});
    CHECK(volume(pair) == about(2 * one));
    CHECK(std::fabs(measure(pair).centroid[0]) < 1e-9);
    const SolidPart image = solid(
        {ten, "cut sphere | radius = 6", "change mirror | mirror = [[0, 0, 0], [0, 1, 0], [0, 0, 1]] | keep = false"});
    CHECK(volume(image) == about(1000 - 36 * pi));
    CHECK(image.box.high[0] == about(0));
    const SolidPart round = solid({"add box | corner = [4, -1, 0] | size = [6, 2, 3]",
                                   "add cylinder | from = [0, 0, 0] | to = [0, 0, 3] | radius = 5",
                                   "change repeat | repeat = 3 | around = [[0, 0, 0], [0, 0, 1]]"});
    CHECK(volume(round) > 75 * pi + 2.5 * 30);
    CHECK(round.bodies.size() == 1);
    const SolidPart moved = solid({cone, "change move | move = [1, 2, 3]", "change rotate | rotate = \"180 deg\""});
    CHECK(distance(measure(moved).centroid + measure(solid({cone})).centroid, {{-1, -2, 0}}) > 1);
    CHECK(measure(moved).centroid[0] == about(-6));
}

TEST_CASE("a mirrored solid of every kind of surface stays right-handed") {
    const SolidPart part = solid({ten, "cut cylinder | from = [5, 5, -1] | to = [5, 5, 11] | radius = 2",
                                  "add sphere | centre = [0, 5, 5] | radius = 2",
                                  "add rectangle | corner = [12, 0] | size "
                                  "= [3, 4] | round = 1 | extrude = { to = 2 }"});
    const SolidPart image = placed(part, AffineIn<3>::mirror({Vec3{}, Vec3{{1, 1, 0}}, Vec3{{0, 0.3, 1}}}));
    REQUIRE(image.bodies.size() == part.bodies.size());
    for (std::size_t b = 0; b < part.bodies.size(); ++b)
        CHECK(measure_body(image, b).size == about(measure_body(part, b).size));
    for (std::size_t f = 0; f < part.faces.size(); ++f)
        CHECK(measure_face(image, f).size == about(measure_face(part, f).size));
}

TEST_CASE("what nothing parts is one face") {
    const SolidPart part = solid({ten, "add box | corner = [5, 0, 0] | size = [10, 10, 10]"});
    CHECK(part.faces.size() == 6);
    CHECK(part.bodies.size() == 1);
    // Another name on one of them is a reason for a line.
    CHECK(solid({ten + " | names = { top = \"t\" }", "add box | corner = [5, 0, 0] | size = [10, 10, 10]"})
              .faces.size() == 7);
    const SolidPart hole = solid({ten, "cut cylinder | from = [5, 5, -1] | to = [5, 5, 11] | radius = 2"});
    CHECK(std::count_if(hole.faces.begin(), hole.faces.end(), [](const SolidFace& f) { return f.loops.size() == 2; }) ==
          2);
}

TEST_CASE("edges where surfaces meet lie on both of them") {
    const SolidPart part = solid({"add cylinder | from = [-20, 0, 0] | to = [20, 1, 2] | radius = 6",
                                  "cut cone | from = [0, -20, 1] | to = [2, 20, 0] | radii = [5, 2]",
                                  "cut ring | centre = [14, 3, 4] | normal "
                                  "= [1, 2, 2] | radii = [5, 2]"});
    int curved = 0;
    double worst = 0;
    for (std::size_t f = 0; f < part.faces.size(); ++f)
        for (const auto& loop : part.faces[f].loops)
            for (const auto& use : loop) {
                const auto& curve = part.edge(use.edge).curve;
                if (curve.kind() == CurveIn<3>::Kind::spline) ++curved;
                for (int k = 0; k <= 20; ++k) {
                    const Vec3 p = curve.point(k / 20.0);
                    const Surface& s = part.faces[f].surface;
                    worst = std::max(worst, distance(p, s.point(s.project(p))));
                }
            }
    CHECK(curved > 10);
    CHECK(worst < 2e-8 * part.box.diagonal());
}

TEST_CASE("random chains of booleans agree with the shapes' own equations") {
    int built = 0;
    for (const unsigned seed : {2U, 4U, 7U, 9U, 13U, 36U}) {
        CAPTURE(seed);
        const ChainReport r = check_chain(random_chain(seed), 4, 80);
        CAPTURE(r.fault);
        if (r.fault.find("nothing") != std::string::npos) continue;
        CHECK(r.good());
        CHECK(r.on_faces > r.faces);
        ++built;
    }
    CHECK(built >= 4);
}

TEST_CASE("a place in a drawn or turned solid is found in its body, on its faces, or outside") {
    // A tube, whose round faces close themselves, with a turned knob of another region on it.
    const SolidPart tube = solid_from(
        "format = 1\n[part]\nextrude = { to = 6 }\n[[part.shape]]\nadd = \"circle\"\nradius = 4\n[[part.shape]]\ncut = "
        "\"circle\"\nradius = 2\n");
    const SolidPart knob = solid({"add rectangle | size = [3, 2] | revolve = {} | region = \"disc\"",
                                  "add sphere | centre = [0, 2, 0] | radius = 2 | region = \"cap\""});
    const BodyFinder in_tube(tube), in_knob(knob);
    std::mt19937 random(5);
    std::uniform_real_distribution<double> place(-5, 7);
    int inside = 0;
    for (int k = 0; k < 3000; ++k) {
        const Vec3 p{{place(random), place(random), place(random)}};
        const double r = std::hypot(p[0], p[1]), q = std::hypot(p[0], p[2]);
        const bool there = r > 2 && r < 4 && p[2] > 0 && p[2] < 6;
        inside += there;
        CAPTURE(p[0]);
        CAPTURE(p[1]);
        CAPTURE(p[2]);
        CHECK(in_tube(p) == (there ? 0 : -1));
        const bool cap = distance(p, {{0, 2, 0}}) < 2, disc = !cap && q < 3 && p[1] > 0 && p[1] < 2;
        const int body = in_knob(p);
        const std::string region =
            body < 0 ? "" : knob.regions[static_cast<std::size_t>(knob.bodies[static_cast<std::size_t>(body)].region)];
        CHECK(region == (cap ? "cap" : disc ? "disc" : ""));
    }
    CHECK(inside > 100);
    for (const Vec3& p : {Vec3{{4, 0, 0}}, Vec3{{2, 0, 3}}, Vec3{{0, -4, 6}}, Vec3{{3, 0, 6}}, Vec3{{3, 0, 1}}})
        CHECK(in_tube.holds(p));
    for (const Vec3& p : {Vec3{{4.001, 0, 0}}, Vec3{{0, 0, 3}}, Vec3{{3, 0, 6.001}}, Vec3{{0, 0, 0}}})
        CHECK(!in_tube.holds(p));
}

TEST_CASE("faults of shapes of space tell what is wrong and what helps") {
    for (const auto& [list, told] : std::vector<std::pair<std::vector<std::string>, std::string>>{
             {{"add box | size = [1, 2]"}, "must be three numbers in brackets"},
             {{"add box | size = [1, 2, 0]"}, "must be three numbers greater than zero"},
             {{"add box"}, "a box needs it"},
             {{"add box | size = [1, 1, 1] | radius = 2"}, "has no meaning for a box"},
             {{"add box | size = [1, 1, 1] | names = { above = \"x\" }"}, "its sides are \"left\""},
             {{"add cylinder | from = [0, 0, 0] | to = [0, 0, 0] | radius = 1"}, "is the same point as from"},
             {{"add cone | from = [0, 0, 0] | to = [0, 0, 1] | radii = [1, 1]"}, "use a cylinder"},
             {{"add cone | from = [0, 0, 0] | to = [0, 0, 1] | radii = [-1, 1]"}, "of which one may be 0"},
             {{"add ring | radii = [1, 2]"}, "the smaller one of its section"},
             {{"add ring | radii = [2, 1] | normal = [0, 0, 0]"}, "is no direction"},
             {{"add plane | at = [0, 0, 0] | normal = [0, 0, 1]"}, "which encloses nothing"},
             {{"cut sphere | radius = 1"}, "there is nothing yet to cut from"},
             {{ten, "cut sphere | centre = [30, 0, 0] | radius = 1"}, "shape 2 cuts nothing"},
             {{ten, "cut box | corner = [-1, -1, -1] | size = [20, 20, 20]"}, "the cuts leave nothing"},
             {{ten, "intersect sphere | centre = [30, 0, 0] | radius = 1"}, "the cuts leave nothing"},
             {{ten, "intersect sphere | radius = 100"}, "takes nothing away"},
             {{ten, "add sphere | centre = [5, 5, 5] | radius = 1"}, "leaves no face on the outside"},
             {{ten, "split plane | at = [30, 0, 0] | normal = [1, 0, 0]"}, "lies outside the material"},
             {{ten, "cut sphere | radius = 1 | of = \"rim\""}, "fits no region that stands above"},
             {{ten + " | region = \"a\"", "add box | size = [10, 10, 10] | region = \"b\""},
              "nothing is left of the region"},
             {{ten, "mark sphere | radius = 1"}, "must be \"point\" in space"},
             {{ten, "change mirror | mirror = [[0, 0, 0], [1, 0, 0], [2, 0, 0]]"}, "has its points on one line"},
             {{ten, "add rectangle | size = [1, 1]"}, "is a plane shape after shapes of space"},
             {{"add rectangle | size = [1, 1]", ten}, "stands among shapes of space"},
             {{"add rectangle | size = [1, 1] | extrude = { to = 1 } | revolve = {}"}, "stands beside extrude"},
             {{"add rectangle | size = [1, 1] | extrude = { to = 0 }"}, "not above from"},
             {{"add line | from = [0, 0] | to = [1, 0] | extrude = { to = 1 }"}, "cannot be drawn or turned by itself"},
             {{"add rectangle | corner = [-1, 0] | size = [3, 1] | revolve = {}"}, "crosses the axis"},
             {{ten + " | rotate = 1 | about = [[0, 0, 0], [0, 0, 0]]"}, "has the same point twice"},
             {{ten + " | repeat = 3"}, "needs a step or an axis"},
         }) {
        CAPTURE(shapes(list));
        const std::string text = faults(list);
        CAPTURE(text);
        CHECK(has(text, told));
    }
    CHECK(has(faults({ten}, "[part.interface.i]\nbetween = [\"part\", \"other\"]\n"), "no face lies between"));
    Problems problems("t.toml");
    (void)open_study("t.toml", "format = 1\n[part]\nthickness = 2\n[[part.shape]]\nadd = \"sphere\"\nradius = 1\n",
                     problems);
    CHECK(has(problems.text(), "has no meaning for a solid"));
}

TEST_CASE("every solid in docs/solids.md is built") {
    const std::string docs = read_file(std::string(DOTSIFT_SOURCE) + "/docs/solids.md");
    int count = 0;
    for (std::size_t at = docs.find("<!-- solid "); at != std::string::npos; at = docs.find("<!-- solid ", at)) {
        at = docs.find('\n', docs.find("```toml", at)) + 1;
        const std::size_t end = docs.find("```", at);
        CAPTURE(docs.substr(at, end - at));
        CHECK(volume(solid_from("format = 1\n" + docs.substr(at, end - at))) > 0);
        ++count;
    }
    CHECK(count >= 4);
}

TEST_SUITE_END();
