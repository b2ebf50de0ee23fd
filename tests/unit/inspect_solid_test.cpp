// What inspect tells of solids: moments, walls and gaps of known thickness, edges, bends, faces without a name.

#include <cmath>
#include <numbers>

#include "inspect/inspect_solid.hpp"
#include "inspect/thin_places.hpp"
#include "support/space_shapes.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using std::numbers::pi;

VolumeMoments moments(const SolidPart& part) {
    return moments_about(part, measure(part).centroid, std::vector<double>(part.bodies.size(), 1));
}

/// The thinnest wall, or the narrowest gap.
double thinnest(const SolidPart& part, bool gap) {
    for (const auto& p : thin_places(part))
        if ((p.body < 0) == gap) return p.width();
    return INFINITY;
}

PartReport report_of(const std::vector<std::string>& list, const std::string& more = "") {
    Problems problems("test.toml");
    const StudyAndPart both = open_study("test.toml", shapes(list) + more, problems);
    REQUIRE(both.solid);
    return inspect_part(both);
}
bool tells(const PartReport& r, const std::string& what) {
    return std::any_of(r.findings.begin(), r.findings.end(),
                       [&](const Finding& f) { return f.text.find(what) != std::string::npos; });
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("second moments of solids are those of their closed forms") {
    struct Known {
        std::vector<std::string> shapes;
        std::array<double, 3> moments;  // Ixx, Iyy, Izz
    };
    const auto disc = [](double r, double h) {  // about a diameter, and about the axis
        const double m = pi * r * r * h;
        return std::array{m * (3 * r * r + h * h) / 12, m * r * r / 2};
    };
    const double ball = 8 * pi / 15 * std::pow(3, 5), hole = 8 * pi / 15 * std::pow(2, 5);
    const double ring_mass = 2 * pi * pi * 5 * 4;
    for (const Known& k : std::vector<Known>{
             {{"add box | corner = [7, 8, 9] | size = [2, 3, 4]"},
              {24.0 * (9 + 16) / 12, 24.0 * (4 + 16) / 12, 24.0 * (4 + 9) / 12}},
             {{"add cylinder | from = [1, 1, 1] | to = [1, 1, 7] | radius = 2"},
              {disc(2, 6)[0], disc(2, 6)[0], disc(2, 6)[1]}},
             {{"add cylinder | from = [1, 1, 1] | to = [7, 1, 1] | radius = 2"},
              {disc(2, 6)[1], disc(2, 6)[0], disc(2, 6)[0]}},
             {{"add sphere | centre = [4, 5, 6] | radius = 3"}, {ball, ball, ball}},
             {{"add sphere | radius = 3", "change hollow | wall = 1"}, {ball - hole, ball - hole, ball - hole}},
             {{"add ring | centre = [1, 2, 3] | radii = [5, 2]"},
              {ring_mass * (4 * 25 + 5 * 4) / 8, ring_mass * (4 * 25 + 5 * 4) / 8, ring_mass * (4 * 25 + 3 * 4) / 4}},
             // A cone with its tip at one end: 3/10 m r^2 about the axis, 3/20 m (r^2 + h^2 / 4) across.
             {{"add cone | from = [0, 0, 0] | to = [0, 0, 8] | radii = [3, 0]"},
              {24 * pi * 3 / 20 * (9 + 16), 24 * pi * 3 / 20 * (9 + 16), 24 * pi * 3 / 10 * 9}},
         }) {
        CAPTURE(k.shapes.front());
        const VolumeMoments m = moments(solid(k.shapes));
        const double scale = std::max({k.moments[0], k.moments[1], k.moments[2]});
        CHECK(m.ixx == doctest::Approx(k.moments[0]).epsilon(1e-9));
        CHECK(m.iyy == doctest::Approx(k.moments[1]).epsilon(1e-9));
        CHECK(m.izz == doctest::Approx(k.moments[2]).epsilon(1e-9));
        for (const double product : {m.ixy, m.iyz, m.izx}) CHECK(std::fabs(product) < 1e-9 * scale);
    }
    // A turned block keeps its principal moments; their axes turn with it.
    const auto turned = solid({"add box | size = [2, 3, 4] | rotate = \"30 deg\" | about = [[0, 0, 0], [1, 2, 3]]"});
    const PrincipalAxes axes = principal_axes(moments(turned));
    CHECK(axes.moments[0] == doctest::Approx(26).epsilon(1e-9));
    CHECK(axes.moments[1] == doctest::Approx(40).epsilon(1e-9));
    CHECK(axes.moments[2] == doctest::Approx(50).epsilon(1e-9));
    const auto turn = AffineIn<3>::rotation(pi / 6, {Vec3{}, Vec3{{1, 2, 3}}});
    CHECK(std::fabs(dot(axes.axes[0], turn.turned({{0, 0, 1}}))) == doctest::Approx(1).epsilon(1e-9));
    CHECK(dot(cross(axes.axes[0], axes.axes[1]), axes.axes[2]) == doctest::Approx(1));
}

TEST_CASE("walls and gaps have their known thickness") {
    struct Known {
        std::vector<std::string> shapes;
        double wall, gap;
    };
    for (
        const Known& k : std::vector<Known>{
            {{"add box | size = [40, 30, 2]"}, 2, INFINITY},
            // Between a bore and an outside, between two bores.
            {{"add box | size = [40, 30, 12]", "cut cylinder | from = [10, 15, -1] | to = [10, 15, 13] | radius = 8.5"},
             1.5,
             INFINITY},
            {{"add box | size = [40, 30, 12]", "cut cylinder | from = [13, 15, -1] | to = [13, 15, 13] | radius = 6",
              "cut cylinder | from = [26, 15, -1] | to = [26, 15, 13] | radius = 6"},
             1,
             INFINITY},
            {{"add cylinder | from = [0, 0, 0] | to = [0, 0, 20] | radius = 10",
              "cut cylinder | from = [0, 0, -1] | to = [0, 0, 21] | radius = 9.2"},
             0.8,
             INFINITY},
            {{"add sphere | radius = 10", "cut sphere | centre = [0.5, 0.2, 0.1] | radius = 9"},
             10 - 9 - std::sqrt(0.3),
             INFINITY},
            {{"add box | size = [40, 30, 12]", "change hollow | wall = 1.7"}, 1.7, 12 - 3.4},
            // A saw cut, and a slanting one.
            {{"add box | size = [40, 30, 12]", "cut box | corner = [15, -1, 4] | size = [0.6, 40, 10]"}, 4, 0.6},
            {{"add box | size = [40, 30, 12]",
              "cut box | corner = [15, -1, 4] | size = [0.6, 40, 30] | rotate = \"20 deg\" | about = [[15, 0, 4], [15, "
              "1, 4]]"},
             4 - 0.6 * std::sin(pi / 9),
             0.6},
            // Two plates that touch along a rod, and a duct below a face.
            {{"add box | size = [40, 30, 3]", "add box | corner = [0, 0, 5] | size = [40, 30, 4]",
              "add cylinder | from = [20, 15, 1] | to = [20, 15, 6] | radius = 4"},
             3,
             2},
            {{"add box | size = [40, 30, 12]",
              "cut circle | radius = 2 | sweep = { from = [-1, 15, 9], path = [{ to = [41, 15, 9] }] }"},
             1,
             INFINITY},
        }) {
        CAPTURE(k.shapes.back());
        const SolidPart part = solid(k.shapes);
        CHECK(thinnest(part, false) == doctest::Approx(k.wall).epsilon(1e-3));
        if (std::isfinite(k.gap)) CHECK(thinnest(part, true) == doctest::Approx(k.gap).epsilon(1e-2));
    }
}

TEST_CASE("what will cause trouble in a solid is listed") {
    const std::string box = "add box | size = [40, 30, 12] | name = \"skin\"";
    const auto thin = report_of({box, "cut box | corner = [10, 5, 0.5] | size = [20, 20, 20] | name = \"pocket\""});
    CHECK(tells(thin, "thinnest wall of part: 0.5"));
    CHECK(tells(thin, "too few, ask for 0.25"));
    CHECK(!tells(thin, "no name"));
    const auto slit = report_of({box, "cut box | corner = [10, -1, 5] | size = [0.3, 40, 20]"});
    CHECK(tells(slit, "narrowest gap: 0.3"));
    CHECK(tells(slit, "3 faces of the outside have no name"));
    const auto step = report_of({box, "add box | corner = [0, 0, 12] | size = [20, 30, 0.2] | name = \"step\""});
    CHECK(tells(step, "short edge: 0.2"));
    const auto rounded = report_of({box, "change round | near = [[20, 0, 12]] | radius = 0.4 | name = \"soft\""});
    CHECK(tells(rounded, "tight bend: radius 0.4"));
    const auto strip = report_of({box, "add box | corner = [0, 0, 12] | size = [40, 29.8, 3] | name = \"hat\""});
    CHECK(tells(strip, "narrow face: \"skin\" is about 0.199"));
    const auto blade = report_of({box, "cut plane | at = [0, 0, 0] | normal = [0.2, 0, -1] | name = \"slope\"",
                                  "cut plane | at = [0, 0, 0.2] | normal = [0, 0, 1] | name = \"lid\""});
    CHECK(tells(blade, "sharp edge: "));
    CHECK(tells(blade, "meet at 11°"));
    CHECK(!tells(report_of({box}), "sharp edge"));
    CHECK(!tells(report_of({box}), "narrow face"));
    // Exponents need constants that are there.
    const auto unknown = report_of({box}, "[material.m]\nyoungs_modulus = -3\n[support.s]\non = \"skin\"\nux = 0\n");
    CHECK(!tells(unknown, "infinite"));
}

TEST_CASE("the tightest box of a turned solid is that of the solid as it was") {
    struct Known {
        std::vector<std::string> shapes;
        Vec3 size;
    };
    const std::string turn = "change rotate | rotate = \"33 deg\" | about = [[1, 2, 3], [2, 1, 5]]";
    for (const Known& k : std::vector<Known>{
             {{"add box | size = [4, 3, 2]"}, {{4, 3, 2}}},
             {{"add cylinder | from = [0, 0, 0] | to = [7, 0, 0] | radius = 1"}, {{7, 2, 2}}},
             {{"add wedge | size = [4, 3, 2] | tip = 0"}, {{4, 3, 2}}},
             {{"add box | size = [9, 3, 2]", "cut sphere | centre = [4, 1, 2] | radius = 0.8"}, {{9, 3, 2}}},
             {{"add ring | centre = [0, 0, 0] | radii = [5, 1]"}, {{12, 12, 2}}},
         }) {
        CAPTURE(k.shapes.front());
        auto list = k.shapes;
        list.push_back(turn);
        const auto report = report_of(list);
        const TurnedBox& box = report.solid->tightest;
        CHECK(box.volume() <= k.size[0] * k.size[1] * k.size[2] * (1 + 1e-3));
        CHECK(box.volume() <= report.solid->size[0] * report.solid->size[1] * report.solid->size[2] * (1 + 1e-12));
        CHECK(norm(cross(box.axes[0], box.axes[1]) - box.axes[2]) < 1e-9);
        if (k.shapes.front().find("wedge") == std::string::npos)
            for (std::size_t a = 0; a < 3; ++a) CHECK(box.size[a] == doctest::Approx(k.size[a]).epsilon(2e-3));
    }
}

TEST_CASE("a size is suggested, with its reason") {
    const auto block = report_of({"add box | size = [40, 30, 12] | name = \"skin\""});
    CHECK(block.suggestion.size == doctest::Approx(std::cbrt(40.0 * 30 * 12) / 8));
    CHECK(block.suggestion.reason == "an eighth of the cube root of the volume");
    CHECK(block.suggestion.elements > 500);
    const auto thin =
        report_of({"add box | size = [40, 30, 12]", "cut box | corner = [10, 5, 0.5] | size = [20, 20, 20]"});
    CHECK(thin.suggestion.size == doctest::Approx(0.25).epsilon(1e-3));
    CHECK(thin.suggestion.reason == "2 elements across the thinnest wall, which is 0.500 m thick");
    CHECK(thin.suggestion.elements > block.suggestion.elements);
}

TEST_CASE("regions are left out after they have shaped their neighbours") {
    // The space round a ball in a box, and the inside of a vessel.
    const std::vector<std::string> list{
        "add box | size = [10, 10, 10] | region = \"air\" | name = \"far\"",
        "add sphere | centre = [5, 5, 5] | radius = 2 | region = \"ball\" | name = \"skin\"",
        "add cylinder | from = [8, 8, 0] | to = [8, 8, 4] | radius = 1 | region = \"pin\" | name = \"pin_skin\""};
    const auto with = [&](const std::string& left) {
        std::string text = shapes(list);
        text.replace(text.find("[part]\n"), 7, "[part]\nleft_out = " + left + "\n");
        return text;
    };
    const SolidPart all = solid(list), air = solid_from(with("\"ball\""));
    CHECK(all.regions.size() == 3);
    CHECK(air.regions == std::vector<std::string>{"air", "pin"});
    CHECK(air.bodies.size() == 2);
    const double ball = 4 * pi / 3 * 8, pin = 4 * pi;
    CHECK(volume(air) == doctest::Approx(1000 - ball).epsilon(1e-9));
    CHECK(area_named(air, "skin") == doctest::Approx(16 * pi).epsilon(1e-9));
    CHECK(area_named(air, "air_and_ball") == doctest::Approx(16 * pi).epsilon(1e-9));
    for (const int f : air.faces_named({"skin"})) CHECK(!air.face(f).interior());
    CHECK(std::count_if(air.faces.begin(), air.faces.end(), [](const SolidFace& f) { return f.interior(); }) ==
          static_cast<std::ptrdiff_t>(air.faces_named({"air_and_pin"}).size()));
    CHECK(area_named(air, "air_and_pin") == doctest::Approx(8 * pi + pi).epsilon(1e-9));
    const SolidPart pins = solid_from(with("[\"air\", \"b*\"]"));
    CHECK(pins.regions == std::vector<std::string>{"pin"});
    CHECK(volume(pins) == doctest::Approx(pin).epsilon(1e-9));
    // All faces look out of what is left.
    for (const auto& part : {air, pins})
        for (const auto& f : part.faces) CHECK(f.behind >= 0);
    const auto told = [&](const std::string& left) {
        Problems problems("test.toml");
        (void)open_study("test.toml", with(left), problems);
        return problems.text();
    };
    CHECK(told("\"water\"").find("left_out names \"water\", which is no region") != std::string::npos);
    Problems plane("test.toml");
    (void)open_study("test.toml",
                     "format = 1\n[part]\nleft_out = \"a\"\n[[part.shape]]\nadd = \"circle\"\nradius = 1\n", plane);
    CHECK(plane.text().find("takes regions of a solid away, but the part is plane") != std::string::npos);
    CHECK(told("\"*\"").find("left_out leaves nothing") != std::string::npos);
}

TEST_SUITE_END();
