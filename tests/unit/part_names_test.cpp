#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "inspect/inspect.hpp"
#include "part/build.hpp"
#include "part/measure.hpp"
#include "part/narrow.hpp"
#include "study/read.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr double pi = std::numbers::pi;

/// A rounded plate with three holes of two sizes.
const std::string plate =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [20, 10]\nrounds = { 1 = 2, 2 = 2 }\nnames = { left = \"left\", top = "
    "\"top\" }\n"
    "[[part.shape]]\ncut = \"circle\"\nradius = 1\ncentre = [5, 5]\nname = \"hole_a\"\n"
    "[[part.shape]]\ncut = \"circle\"\nradius = 1\ncentre = [15, 5]\nname = \"hole_b\"\n"
    "[[part.shape]]\ncut = \"circle\"\nradius = 0.4\ncentre = [10, 5]\nname = \"pin\"\n";

Part selected(const std::string& rules) {
    return part_from(plate + "[part.selection.found]\n" + rules);
}

std::string faults(const std::string& text) {
    return faults_of("format = 1\n[part]\n" + text + rest_of_study());
}

BuiltPart cleaned(const std::string& shapes, const std::string& rules) {
    Problems problems("t");
    const Study study =
        read_study("t", "format = 1\n[part]\n" + shapes + "[part.cleanup]\n" + rules + rest_of_study(), problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    BuiltPart built = build_part(study, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    return built;
}

PartReport inspected(const std::string& text) {
    Problems problems("t");
    return inspect_part(open_study("t", "format = 1\n" + text, problems));
}

const Finding* first_of(const PartReport& report, const std::string& kind) {
    const auto found =
        std::find_if(report.findings.begin(), report.findings.end(), [&](const Finding& f) { return f.kind == kind; });
    return found == report.findings.end() ? nullptr : &*found;
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("each selection rule finds its edges") {
    CHECK(length_named(selected("named = \"hole_*\"\ncount = 2\n"), "found") == doctest::Approx(4 * pi));
    CHECK(length_named(selected("box = [[3, 3], [17, 7]]\ncount = 3\n"), "found") == doctest::Approx(4.8 * pi));
    CHECK(length_named(selected("line = [[0, 10], [1, 10]]\n"), "found") == doctest::Approx(20));
    CHECK(length_named(selected("nearest = [14, 6.2]\n"), "found") == doctest::Approx(2 * pi));
    CHECK(length_named(selected("normal = [0, -1]\n"), "found") == doctest::Approx(16));
    CHECK(length_named(selected("normal = [0, -1]\nwithin = \"91 deg\"\n"), "found") == doctest::Approx(32 + 2 * pi));
    CHECK(length_named(selected("radius = 1\n"), "found") == doctest::Approx(4 * pi));
    CHECK(length_named(selected("radius = [0.3, 1.5]\ncount = 3\n"), "found") == doctest::Approx(4.8 * pi));
    CHECK(length_named(selected("beside = \"top\"\ncount = 2\n"), "found") == doctest::Approx(16));
    CHECK(length_named(selected("normal = [0, -1]\nfollow_tangent = true\n"), "found") == doctest::Approx(32 + 2 * pi));
    CHECK(length_named(selected("around = \"part\"\nbox = [[-1, -1], [21, 11]]\n"), "found") > 50);
    const Part two =
        part_from(plate + "[part.selection.first]\nnearest = [5, 6.5]\n[part.selection.second]\nnamed = \"first\"\n");
    CHECK(length_named(two, "second") == doctest::Approx(2 * pi));  // names made by one are there for the next
    const Part corner = part_from(plate + "[part.selection.tip]\npick = \"points\"\nnearest = [21, 11]\n");
    REQUIRE(corner.points_named({"tip"}).size() == 1);
    CHECK(corner.vertex(corner.points_named({"tip"})[0]) == Vec2{{20, 10}});
}

TEST_CASE("empty, ambiguous and unexpected selections list the candidates") {
    const auto told = [](const std::string& rules) { return faults(plate + "[part.selection.found]\n" + rules); };
    CHECK(has(told("radius = 7\n"), "no edge fits all of its rules"));
    CHECK(has(told("radius = 7\n"), "\"pin\" (circle of radius 0.4 about (10, 5))"));
    CHECK(has(told("radius = 1\ncount = 3\n"), "3 edges were expected, but 2 fit"));
    CHECK(has(told("radius = 1\ncount = 3\n"), "found: \"hole_a\" (circle of radius 1 about (5, 5)), \"hole_b\""));
    CHECK(has(told("radius = 1\nnearest = [10, 9]\n"), "2 edges are equally near to (10, 9)"));
    CHECK(has(told("named = \"hole_x\"\n"), "fits no name"));
    CHECK(has(told("named = \"hole_x\"\n"), "did you mean \"hole_"));
    CHECK(has(told("around = \"no\"\n"), "fits no region"));
    CHECK(has(told("count = 3\n"), "needs at least one rule"));
    CHECK(has(told("pick = \"points\"\nradius = 1\n"), "has no meaning for points"));
    CHECK(has(told("within = 1\nnearest = [0, 0]\n"), "goes with normal only"));
    CHECK(has(told("pick = \"points\"\nnearest = [10, 20]\nbox = [[-1, 9], [21, 11]]\n"), "2 points are equally near"));
}

TEST_CASE("a name given twice for different things is a fault") {
    CHECK(has(faults(plate + "[part.selection.pin]\nradius = 1\n"), "edges of this name already"));
    CHECK(has(faults(plate + "[[part.shape]]\nadd = \"circle\"\nradius = 3\ncentre = [20, 5]\nregion = \"pin\"\n"),
              "\"pin\" names a region and edges"));
    const std::string mark = "[[part.shape]]\nmark = \"point\"\nat = [2, 5]\nname = \"p\"\n";
    CHECK(has(faults(plate + mark + "[[part.shape]]\nmark = \"point\"\nat = [2, 6]\nname = \"p\"\n"),
              "given to more than one point"));
    CHECK(has(faults(plate + mark + "repeat = 2\nstep = [0, 1]\n"), "put # into the name"));
    CHECK(has(faults(plate + rest_of_study()), "TOML"));  // the same table twice
}

TEST_CASE("choices that name nothing, and clean-ups that go too far, are told as such") {
    const std::string cut = "[[part.shape]]\ncut = \"circle\"\nradius = 1\ncentre = [2, 5]\n";
    CHECK(has(faults(plate + cut + "of = \"prat\"\n"), "of = \"prat\" fits no region"));
    CHECK(has(faults(plate + cut + "of = \"prat\"\n"), "did you mean \"part\"?"));
    const std::string round = "[[part.shape]]\nchange = \"round\"\nradius = 0.5\n";
    CHECK(has(faults(plate + round + "between = [\"left\", \"tpo\"]\n"), "no boundary is named \"tpo\""));
    CHECK(has(faults(plate + round + "between = [\"left\", \"tpo\"]\n"), "did you mean \"top\"?"));
    CHECK(has(faults(plate + round + "near = [[20, 10], [20, 10]]\n"), "is listed twice"));
    const auto circle = [](const std::string& priority) {
        return faults(plate + "[[part.shape]]\nadd = \"circle\"\nradius = 3\npriority = " + priority + "\n");
    };
    CHECK(circle("-2").find("priority") == std::string::npos);
    CHECK(has(circle("1.5"), "a whole number between"));
    CHECK(has(circle("1e90"), "a whole number between"));
    CHECK(has(faults(plate + "[part.cleanup]\nmerge_points = 1000\n"), "nothing would be left of a piece of \"part\""));
    Problems problems("t");  // a clean-up that fails leaves the part as drawn
    const BuiltPart kept = build_part(
        read_study("t", "format = 1\n" + plate + "[part.cleanup]\nfill_holes_below = 1\nmerge_points = 1000\n",
                   problems),
        problems);
    CHECK(kept.part.area() == doctest::Approx(part_from(plate).area()));
    CHECK(!kept.original);
    CHECK(has(faults(plate + "[part.cleanup]\none_edge = \"tpo\"\n"), "one_edge = \"tpo\" fits no boundary"));
    CHECK(has(faults(plate + "[part.cleanup]\nfill_holes_below = 3\nkeep_centres = \"c\"\n"), "put # into the name"));
}

TEST_CASE("supports and quantities may stand at named points") {
    const std::string base =
        "format = 1\n" + plate +
        "[[part.shape]]\nmark = \"point\"\nat = [2, 5]\nname = \"pad\"\n[material.m]\nyoungs_modulus "
        "= 1\npoissons_ratio = 0.3\n[support.s]\non = \"left\"\nux = 0\n[load.l]\non = \"top\"\npressure = "
        "1\n[quantity.q]\nof = \"ux\"\nat = \"pad\"\n";
    CHECK(faults_of(base + "[support.p]\nat = \"pad\"\nuy = 0\n").empty());
    CHECK(has(faults_of(base + "[support.p]\nat = \"pda\"\nuy = 0\n"), "did you mean \"pad\"?"));
}

TEST_CASE("regions have one material each") {
    const auto told = [](const std::string& materials) {
        return faults_of(
            "format = 1\n[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 2]\nregion = \"a\"\nnames = { left = "
            "\"left\", right = \"right\" }\n[[part.shape]]\nadd = \"circle\"\nradius = 0.5\ncentre = [2, "
            "1]\nregion = \"b\"\n[support.s]\non = \"left\"\nhold = \"fixed\"\n[load.l]\non = "
            "\"right\"\npressure = 1\n" +
            materials);
    };
    const std::string constants = "youngs_modulus = 1\npoissons_ratio = 0.3\n";
    CHECK(told("[material.x]\n" + constants).empty());
    CHECK(told("[material.x]\non = \"a\"\n" + constants + "[material.y]\n" + constants).empty());
    CHECK(has(told("[material.x]\non = \"a\"\n" + constants), "the region \"b\" has no material"));
    CHECK(has(told("[material.x]\non = \"c\"\n" + constants), "no region is named \"c\""));
    CHECK(has(told("[material.x]\non = [\"a\", \"b\"]\n" + constants + "[material.y]\non = \"b\"\n" + constants),
              "region \"b\" has two materials, x and y"));
    CHECK(has(told("[material.x]\n" + constants + "[load.p]\non = \"a_and_b\"\npressure = 1\n"),
              "with material on both sides"));
}

TEST_CASE("clean-up fills holes, removes rounds, merges points and joins edges, and says so") {
    const BuiltPart filled = cleaned(plate, "fill_holes_below = 1\nkeep_centres = \"was_#\"\n");
    CHECK(filled.part.edges_named({"pin"}).empty());
    CHECK(length_named(filled.part, "hole_a") == doctest::Approx(2 * pi));
    REQUIRE(filled.part.points_named({"was_1"}).size() == 1);
    CHECK(distance(filled.part.vertex(filled.part.points_named({"was_1"})[0]), {{10, 5}}) < 1e-12);
    CHECK(filled.part.area() - filled.original->area() == doctest::Approx(0.16 * pi));
    CHECK(has(filled.cleanup[0].what, "hole \"pin\" of diameter 0.8000 filled, point \"was_1\" left at its centre"));

    const BuiltPart sharp = cleaned(plate, "remove_rounds_below = 2.5\n");
    CHECK(sharp.part.area() == doctest::Approx(200 - 2.16 * pi));
    CHECK(sharp.cleanup.size() == 2);
    CHECK(sharp.part.edges.size() == sharp.original->edges.size() - 2);
    CHECK(length_named(sharp.part, "left") == doctest::Approx(10));
    // A round between a line and an arc gives way to where both meet.
    const std::string bitten =
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [20, 10]\nname = \"plate\"\n[[part.shape]]\ncut = "
        "\"circle\"\ncentre = [10, "
        "10]\nradius = 4\nname = \"bite\"\n";
    const BuiltPart both = cleaned(
        bitten + "[[part.shape]]\nchange = \"round\"\nbetween = [\"plate\", \"bite\"]\nradius = 0.5\nname = \"soft\"\n",
        "remove_rounds_below = 1\n");
    CHECK(both.part.area() == doctest::Approx(200 - 8 * pi).epsilon(1e-12));
    CHECK(both.part.edges_named({"soft"}).empty());
    const BuiltPart slot =
        cleaned("[[part.shape]]\nadd = \"slot\"\nfrom = [0, 0]\nto = [6, 0]\nwidth = 2\n", "remove_rounds_below = 3\n");
    CHECK(slot.part.area() == doctest::Approx(12 + pi));
    CHECK(has(slot.cleanup[0].what, "its sides do not meet"));

    const std::string stepped =
        "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [10, 0], [10, 5], [6, 5], [6, 5.01], [0, 5]]\nname = "
        "\"rim\"\n";
    const BuiltPart merged = cleaned(stepped, "merge_points = 0.02\n");
    CHECK(merged.part.vertices.size() == 5);
    CHECK(merged.part.area() == doctest::Approx(50));
    CHECK(has(merged.cleanup[0].what, "0.01000 apart"));

    // A closed curve whose point is merged with an earlier one moves as a whole.
    const BuiltPart beside = cleaned(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 10]\n[[part.shape]]\nmark = \"line\"\nfrom = [8, 5]\nto = "
        "[6.01, 5]\n"
        "[[part.shape]]\ncut = \"circle\"\nradius = 1\ncentre = [5, 5]\nname = \"hole\"\n",
        "merge_points = 0.02\n");
    const Curve& hole = beside.part.edge(beside.part.edges_named({"hole"})[0]).curve;
    CHECK(distance(hole.start(), hole.centre()) == doctest::Approx(1).epsilon(1e-12));
    CHECK(hole.start() == Vec2{{6.01, 5}});

    const std::string polygon_arc = [] {  // a half disc whose arc was drawn as 40 short lines
        std::string corners;
        for (int k = 0; k <= 40; ++k)
            corners += "[" + std::to_string(5 * std::cos(pi * k / 40)) + ", " +
                       std::to_string(5 * std::sin(pi * k / 40)) + "], ";
        std::string names = "names = { ";
        for (int k = 1; k <= 40; ++k) names += "side" + std::to_string(k) + " = \"arc\", ";
        return "[[part.shape]]\nadd = \"polygon\"\ncorners = [" + corners + "]\n" + names + "side41 = \"flat\" }\n";
    }();
    const BuiltPart one = cleaned(polygon_arc, "one_edge = \"arc\"\n");
    CHECK(one.part.edges.size() == 2);
    CHECK(one.part.area() == doctest::Approx(one.original->area()).epsilon(1e-12));
    CHECK(has(one.cleanup[0].what, "40 edges of \"arc\" meshed as one"));
    const BuiltPart few = cleaned(polygon_arc, "one_edge_below = 0.5\n");
    CHECK(few.part.edges.size() == 2);
    CHECK(has(faults(plate + "[part.cleanup]\nkeep_centres = \"x\"\n"), "goes with fill_holes_below"));
    CHECK(has(faults(plate + "[part.cleanup]\nfill_holes_below = 1\n[support.p]\non = \"pin\"\nhold = \"fixed\"\n"),
              "nothing is left of the boundary \"pin\""));
}

TEST_CASE("the narrowest places are found, walls and gaps, with their exact widths") {
    const auto narrowest = [](const std::string& shapes, bool gap) {
        double width = -1;
        for (const auto& p : narrow_places(part_from(shapes)))
            if ((p.face < 0) == gap) width = width < 0 ? p.width() : std::min(width, p.width());
        return width;
    };
    const std::string rectangle = "[[part.shape]]\nadd = \"rectangle\"\nsize = [20, 6]\n";
    CHECK(narrowest(rectangle, false) == doctest::Approx(6));
    CHECK(narrowest(rectangle + "[[part.shape]]\ncut = \"circle\"\nradius = 1\ncentre = [9.3, 4.2]\n", false) ==
          doctest::Approx(0.8).epsilon(1e-9));
    CHECK(narrowest(rectangle + "[[part.shape]]\ncut = \"circle\"\nradius = 1\ncentre = [9.3, 3]\n", true) ==
          doctest::Approx(2).epsilon(1e-6));
    // Two holes: the bridge between them runs along the line of their centres.
    CHECK(narrowest("[[part.shape]]\nadd = \"rectangle\"\nsize = [40, 40]\n[[part.shape]]\ncut = \"circle\"\nradius = "
                    "3\ncentre = [15, "
                    "20]\n[[part.shape]]\ncut = \"circle\"\nradius = 2\ncentre = [20, 24]\n",
                    false) == doctest::Approx(std::sqrt(41) - 5).epsilon(1e-9));
    CHECK(narrowest("[[part.shape]]\nadd = \"circle\"\nradius = 3\n", false) == doctest::Approx(6).epsilon(1e-6));
    const double oval = narrowest("[[part.shape]]\nadd = \"ellipse\"\nradii = [5, 2]\n", false);  // a taper
    CHECK(oval > 3);
    CHECK(oval < 4.01);
    CHECK(narrowest("[[part.shape]]\nadd = \"circle\"\nradius = 3\n[[part.shape]]\ncut = \"circle\"\nradius = "
                    "2\ncentre = [0.5, 0]\n",
                    false) == doctest::Approx(0.5).epsilon(1e-6));
    const std::string bridge =
        "[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [20, 0], [20, 8], [0, 8]]\n[[part.shape]]\ncut = "
        "\"slot\"\nfrom = [8, "
        "9]\nto = [8, 1.3]\nwidth = 1\n";
    CHECK(narrowest(bridge, false) == doctest::Approx(0.8).epsilon(1e-9));
    CHECK(narrowest(bridge, true) == doctest::Approx(1).epsilon(1e-3));
}

TEST_CASE("gaps are told for each two regions") {
    const auto square = [](double x, const std::string& region) {
        return "[[part.shape]]\nadd = \"rectangle\"\nsize = [4, 4]\ncorner = [" + std::to_string(x) +
               ", 0]\nregion = \"" + region + "\"\n";
    };
    std::vector<double> gaps;
    for (const auto& p : narrow_places(part_from(square(0, "a") + square(4.5, "b") + square(8.8, "c"))))
        if (p.face < 0) gaps.push_back(p.width());
    std::sort(gaps.begin(), gaps.end());
    REQUIRE(gaps.size() == 2);
    CHECK(gaps[0] == doctest::Approx(0.3).epsilon(1e-6));
    CHECK(gaps[1] == doctest::Approx(0.5).epsilon(1e-6));
}

TEST_CASE("the mass of a body of revolution, and of regions of another thickness") {
    const std::string rest =
        "[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.3\ndensity = 3\n[support.s]\non = "
        "\"low\"\nuy = 0\n[load.l]\non = \"high\"\npressure = 1\n[size]\nglobal = 1\n";
    const PartReport ring = inspected(
        "[part]\nplane = \"axisymmetric\"\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [2, 0]\nsize = [1, 4]\nnames "
        "= { "
        "bottom = \"low\", top = \"high\" }\n" +
        rest);
    REQUIRE(ring.mass);
    CHECK(*ring.mass == doctest::Approx(3 * pi * (9 - 4) * 4));
    const PartReport web = inspected(
        "[part]\nname = \"web\"\nthickness = 2\nthickness_of = { flange = 5 }\n[[part.shape]]\nadd = "
        "\"rectangle\"\nsize = [1, 1]\nnames = { bottom = \"low\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [0, "
        "1]\nsize = [1, 1]\nregion = \"flange\"\nnames = { top = \"high\" }\n" +
        rest + "[support.x]\nat = [0, 0]\nux = 0\n");
    REQUIRE(web.mass);
    CHECK(*web.mass == doctest::Approx(3 * (2 + 5)));
}

TEST_CASE("inspection measures and lists what will cause trouble") {
    const std::string text =
        "units = { length = \"mm\", force = \"N\" }\n[part]\nthickness = 5\n" + plate +
        "[material.m]\nyoungs_modulus = \"200 GPa\"\npoissons_ratio = 0.3\ndensity = \"7800 kg/m^3\"\n" +
        "[support.s]\non = \"left\"\nhold = \"fixed\"\n[load.l]\non = \"top\"\npressure = 1\n[size]\nglobal = 2\n";
    const PartReport r = inspected(text);
    const double area = 200 - 2 * (4 - pi) - 2.16 * pi;
    CHECK(r.measures.area == doctest::Approx(area).epsilon(1e-12));
    REQUIRE(r.mass);
    CHECK(*r.mass == doctest::Approx(area * 5e-9 * 7800).epsilon(1e-12));
    CHECK(r.holes == 3);
    CHECK(r.lines == 4);
    CHECK(r.arcs == 5);
    const Finding* narrow = first_of(r, "narrow");
    REQUIRE(narrow);
    CHECK(narrow->value == doctest::Approx(3.6).epsilon(1e-6));  // between a hole and the pin
    CHECK(*narrow->elements_across > 3);                         // curvature makes them small there
    REQUIRE(first_of(r, "gap"));
    CHECK(first_of(r, "gap")->value == doctest::Approx(0.8).epsilon(1e-6));
    CHECK(first_of(r, "tight bend")->value == doctest::Approx(0.4));
    CHECK(first_of(r, "sharp corner")->value == doctest::Approx(90));
    // The support ends on a straight line at the rounded corner: clamped beside free, 1/2 (Williams 1952).
    REQUIRE(first_of(r, "singular"));
    CHECK(first_of(r, "singular")->value == doctest::Approx(0.5).epsilon(1e-3));
    CHECK(has(first_of(r, "singular")->text, "the exact stress is infinite, it rises as r^"));
    CHECK(has(first_of(r, "singular")->text, "give the support a stiffness"));
    CHECK(has(first_of(r, "no name")->text, "4 edges of the outline have no name"));
    CHECK(r.unused_names == std::vector<std::string>{"hole_a", "hole_b", "pin"});
    CHECK(r.estimated_elements > 50);
    CHECK(r.suggestion.size > 0);
    CHECK(!r.suggestion.reason.empty());
    const PartReport thin =
        inspected("[[part.shape]]\nadd = \"rectangle\"\nsize = [100, 1]\nname = \"all\"\n[size]\nglobal = 2\n");
    REQUIRE(first_of(thin, "narrow"));
    CHECK(*first_of(thin, "narrow")->elements_across == doctest::Approx(0.5));
    CHECK(has(first_of(thin, "narrow")->text, "too few, ask for 0.50 or less there"));
    CHECK(thin.suggestion.size == doctest::Approx(0.5));
}

TEST_SUITE_END();
