#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <numbers>
#include <random>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "mesh/plane/generate.hpp"
#include "part/checks/check_study.hpp"
#include "sizes/part_sizes.hpp"
#include "sizes/size_table.hpp"
#include "support/meshes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

const std::string plate =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [40, 20]\nnames = { left = \"left\", right = \"right\", top = "
    "\"top\", bottom = "
    "\"bottom\" }\n[[part.shape]]\ncut = \"circle\"\ncentre = [12, 10]\nradius = 5\nname = "
    "\"bore\"\n[[part.shape]]\nmark = "
    "\"point\"\nat = [30, 12]\nname = \"gauge\"\n";

struct Opened {
    StudyAndPart all;
    Sizing sizing;
};

Opened open(const std::string& sizes, const std::string& shapes = plate) {
    Problems problems("t.toml");
    Opened o{open_study("t.toml", "format = 1\n[part]\n" + shapes + rest_of_study() + sizes, problems),
             {SizeField(1, 1, 1, {})}};
    INFO(problems.text());
    REQUIRE(problems.empty());
    o.sizing = sizing_of(o.all.part, o.all.study.sizes, "t.toml");
    return o;
}

std::string rule_at(const Opened& o, const Vec2& p) {
    return name_of_rule(o.all.study.sizes, o.sizing.field.query(p).rule);
}

/// The divisions of the edges of a boundary, as lengths in the edge's order.
std::vector<double> pieces_on(const Opened& o, const std::string& name, const Sizing& sizing) {
    DivisionDemands demands;
    demands.given = sizing.divisions;
    const Division d = divide_edges(o.all.part, sizing.field, demands);
    std::vector<double> lengths;
    for (const int e : o.all.part.edges_named({name}))
        for (const auto& s : d.segments)
            if (s.edge == e)
                lengths.push_back(
                    distance(d.points[static_cast<std::size_t>(s.from)], d.points[static_cast<std::size_t>(s.to)]));
    return lengths;
}

}  // namespace

TEST_SUITE_BEGIN("sizes");

TEST_CASE("each kind of place gives its size there and tells its name") {
    const auto o = open(
        "[size]\nglobal = 4\ngrowth = 1.2\n[size.local.edge]\non = \"left\"\nsize = 0.5\nwithin = "
        "2\n[size.local.spot]\non = "
        "\"gauge\"\nsize = 0.2\n[size.local.disc]\ninside = { shape = \"circle\", centre = [33, 4], radius = 2 }\nsize "
        "= 0.7\n"
        "[size.local.ring]\nalong = { shape = \"circle\", centre = [12, 10], radius = 8 }\nsize = 0.6\n");
    const auto at = [&](double x, double y) { return o.sizing.field.at({{x, y}}); };
    CHECK(at(0, 7) == doctest::Approx(0.5));
    CHECK(at(1.9, 7) == doctest::Approx(0.5));
    CHECK(at(3, 13) == doctest::Approx(0.5 + 0.2 * 1));
    CHECK(rule_at(o, {{1, 7}}) == "size.local.edge");
    CHECK(at(30, 12) == doctest::Approx(0.2));
    CHECK(at(30, 13) == doctest::Approx(0.4));
    CHECK(rule_at(o, {{30, 12}}) == "size.local.spot");
    CHECK(at(33, 4) == doctest::Approx(0.7));
    CHECK(at(34.9, 4) == doctest::Approx(0.7));
    CHECK(rule_at(o, {{34, 4}}) == "size.local.disc");
    CHECK(at(20, 10) == doctest::Approx(0.6).epsilon(0.01));
    CHECK(rule_at(o, {{12, 18}}) == "size.local.ring");
    // Outside the disc the size grows with the distance from it, as well as the cover of its rim can tell.
    CHECK(at(33, 4 - 3) == doctest::Approx(0.7 + 0.2 * 1).epsilon(0.12));
}

TEST_CASE("no two places differ by more than the growth allows, whatever the rules") {
    const auto o = open(
        "[size]\nglobal = 3\ngrowth = 1.25\n[size.local.wave]\nsize = \"1.2 + sin(x) + 0.05*y\"\nsmallest = "
        "0.3\n[size.local.box]\ninside = { shape = "
        "\"rectangle\", corner = [25, 2], size = [6, 4], angle = \"20 deg\" }\nsize = 0.4\n[size.local.wall]\nacross = "
        "3\n"
        "[size.local.d]\non = \"right\"\ndivisions = 30\nbias = 6\nfiner_at = \"top\"\n");
    std::mt19937 random(2);
    std::uniform_real_distribution<> x(0, 40), y(0, 20), step(-0.5, 0.5);
    for (int k = 0; k < 20000; ++k) {
        const Vec2 p{{x(random), y(random)}}, q = p + Vec2{{step(random), step(random)}};
        const double change = std::fabs(o.sizing.field.at(p) - o.sizing.field.at(q));
        // Sizes that vary along a source may add their own gradient to the growth.
        CHECK(change <= 2 * o.sizing.field.steepest() * distance(p, q) + 1e-12);
    }
    for (int k = 0; k < 500; ++k) {
        const Vec2 p{{x(random), y(random)}};
        CHECK(o.sizing.field.at(p) <= std::max(0.3, 1.2 + std::sin(p[0]) + 0.05 * p[1]) * 1.06);
    }
}

TEST_CASE("divisions are exact, with their bias, at the end that is asked for") {
    const std::string rule = "[size]\nglobal = 5\n[size.local.d]\non = \"right\"\ndivisions = 8\n";
    const auto even = open(rule);
    const auto pieces = pieces_on(even, "right", even.sizing);
    REQUIRE(pieces.size() == 8);
    for (const double l : pieces) CHECK(l == doctest::Approx(20.0 / 8));
    const auto biased = open(rule + "bias = 4\nfiner_at = \"top\"\n");
    const auto b = pieces_on(biased, "right", biased.sizing);
    const bool top_last =
        biased.all.part.vertex(biased.all.part.edge(biased.all.part.edges_named({"right"})[0]).end)[1] > 10;
    REQUIRE(b.size() == 8);
    CHECK((top_last ? b.front() / b.back() : b.back() / b.front()) == doctest::Approx(4));
    for (std::size_t k = 2; k < 8; ++k) CHECK(b[k] / b[k - 1] == doctest::Approx(b[1] / b[0]));
    for (const std::string where : {"ends", "middle"}) {
        const auto o = open(rule + "bias = 4\nfiner_at = \"" + where + "\"\n");
        const auto l = pieces_on(o, "right", o.sizing);
        CHECK(l[0] == doctest::Approx(l[7]));
        CHECK(l[3] == doctest::Approx(l[4]));
        CHECK((where == "ends" ? l[3] / l[0] : l[0] / l[3]) == doctest::Approx(4));
    }
    const auto finer = pieces_on(biased, "right", biased.sizing.scaled(0.5));
    CHECK(finer.size() == 16);
    CHECK((top_last ? finer.front() / finer.back() : finer.back() / finer.front()) == doctest::Approx(4));
    // On a circle shares of the length are shares of the angle.
    const auto round = open("[size]\n[size.local.d]\non = \"bore\"\ndivisions = 11\n");
    for (const double l : pieces_on(round, "bore", round.sizing))
        CHECK(l == doctest::Approx(10 * std::sin(std::numbers::pi / 11)).epsilon(1e-6));
    const Mesh mesh = generate(even.all.part, even.sizing, 100000);
    std::size_t sides = 0;
    for (const auto& s : mesh.boundary) sides += Meant(mesh, {"right"}).side(s);
    CHECK(sides == 8);
}

TEST_CASE("elements across a wall are counted on what was measured") {
    const std::string frame =
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [40, 20]\nnames = { left = \"left\", right = \"right\" "
        "}\n[[part.shape]]\ncut "
        "= \"rectangle\"\ncorner = [5, 1.5]\nsize = [30, 16]\n";
    const auto o = open("[size]\nglobal = 8\n[size.local.w]\nacross = 3\n", frame);
    CHECK(o.sizing.field.at({{20, 0.7}}) == doctest::Approx(0.5).epsilon(0.03));
    CHECK(o.sizing.field.at({{20, 19}}) == doctest::Approx(2.5 / 3).epsilon(0.02));
    CHECK(rule_at(o, {{20, 0.7}}) == "size.local.w");
}

TEST_CASE("curves: a rule of their own, with floor and ceiling") {
    CHECK(open("[size]\nglobal = 9\n").sizing.field.at({{17, 10}}) == doctest::Approx(2 * std::numbers::pi * 5 / 16));
    const std::string rule = "[size]\nglobal = 9\n[size.local.c]\non = \"bore\"\nsegments_per_circle = 40\n";
    CHECK(open(rule).sizing.field.at({{17, 10}}) == doctest::Approx(2 * std::numbers::pi * 5 / 40));
    CHECK(open(rule + "smallest = 1.1\n").sizing.field.at({{17, 10}}) == doctest::Approx(1.1));
    CHECK(rule_at(open(rule), {{17, 10}}) == "size.local.c");
}

TEST_CASE("a table is bilinear between its rows, and faults are told with their line") {
    const auto folder = std::filesystem::temp_directory_path() / "dotsift-size-table";
    std::filesystem::create_directories(folder);
    const auto file = folder / "t.csv";
    const auto write = [&](const std::string& text) { std::ofstream(file) << text; };
    write("x, y, size\n0,0,1\n10,0,3\n0,5,2\n10,5,4\n");
    const SizeTableIn<2> t = read_size_table<2>(read_file(file), file);
    CHECK(t.at({{5, 2.5}}) == doctest::Approx(2.5));
    CHECK(t.at({{-4, 9}}) == doctest::Approx(2));
    CHECK(t.at({{10, 0}}) == doctest::Approx(3));
    const auto fault = [&](const std::string& text) {
        write(text);
        try {
            (void)read_size_table<2>(read_file(file), file);
        } catch (const InputError& e) {
            return std::to_string(e.place().line) + ": " + e.what();
        }
        return std::string("none");
    };
    CHECK(has(fault("0,0,1\n1,0,1\n0,1,1\n"), "make no grid"));
    CHECK(has(fault("0,0,1\n1,0,-2\n"), "2: the size is -2"));
    CHECK(has(fault("x,y,size\n0,0,1\n0,0,2\n"), "3: (0, 0) stands there twice"));
    CHECK(has(fault("0,0\n"), "1: the row has 2 fields"));
    CHECK(has(fault("0,0,1\n0,1,foo\n"), "2: \"foo\" is no number"));
    CHECK(has(fault(""), "no row"));
    // Headings in any order, with any separator, and with units in brackets.
    for (const std::string heading :
         {"y,x,size", "y;x;size", "y x size", "Y\tX\tSize", "y [mm], x [mm], size [mm]", "\"y\",\"x\",\"size (mm)\""}) {
        CAPTURE(heading);
        std::string rows = "\n0,0,1\n0,10,3\n5,0,2\n5,10,4\n";
        for (char& c : rows)
            if (c == ',' && heading.find(',') == std::string::npos)
                c = heading.find('\t') != std::string::npos ? '\t' : heading.find(';') != std::string::npos ? ';' : ' ';
        const auto turned = read_size_table<2>(heading + rows, file);
        CHECK(turned.at({{10, 0}}) == doctest::Approx(3));
        CHECK(turned.at({{0, 5}}) == doctest::Approx(2));
    }
    CHECK(has(fault("a,b,c\n0,0,1\n"), "1: the heading does not name the columns"));
    CHECK(has(fault("x,y\n0,0,1\n"), "1: the heading does not name the columns"));
    CHECK_THROWS_AS((void)read_file(folder / "missing.csv"), FileError);
    std::filesystem::remove_all(folder);
}

TEST_CASE("contradictions and impossible sizes are told with what would work") {
    const auto faults = [](const std::string& sizes) {
        return faults_of("format = 1\n[part]\n" + plate + rest_of_study() + sizes);
    };
    CHECK(has(faults("[size]\nglobal = 900\n"), "exceeds the whole part"));
    CHECK(has(faults("[size]\nglobal = 1\nsmallest = 2\n"), "greater than the global size"));
    CHECK(has(faults("[size]\n[size.local.a]\non = \"left\"\nsize = 0\n"), "must be greater than zero"));
    CHECK(has(faults("[size]\n[size.local.a]\non = \"left\"\nsize = -1\n"), "must be greater than zero"));
    CHECK(has(faults("[size]\n[size.local.a]\non = \"lefd\"\nsize = 1\n"), "did you mean \"left\"?"));
    CHECK(has(faults("[size]\n[size.local.a]\non = \"left\"\n"), "or one of table, divisions"));
    CHECK(has(faults("[size]\n[size.local.a]\non = \"left\"\nsize = 1\ndivisions = 4\n"), "make a rule for each"));
    CHECK(has(faults("[size]\n[size.local.a]\non = \"left\"\nsize = 1\nsmallest = 3\nlargest = 2\n"),
              "greater than the largest"));
    CHECK(
        has(faults("[size]\n[size.local.a]\non = \"left\"\ndivisions = 4\nfiner_at = \"ends\"\n"), "goes with a bias"));
    CHECK(has(faults("[size]\n[size.layers.a]\non = \"left\"\nfirst = 1\n"), "two of first, rows and total"));
    CHECK(has(faults("[size]\n[size.layers.a]\non = \"left\"\nfirst = 1\nrows = 3\ntotal = 2\n"),
              "rows from 1 make between"));
    CHECK(has(faults("[mesh]\norder = 3\n"), "order 1 or 2"));
    CHECK(has(faults("[mesh.region.nowhere]\nelements = \"grid\"\n"), "no region is named"));
    CHECK(has(faults("[quality.a]\nof = \"shape\"\ngood = 0.2\nacceptable = 0.4\n"), "good must be the larger one"));
    const auto thrown = [](const std::string& sizes) {
        Problems problems("t.toml");
        const auto o = open_study("t.toml", "format = 1\n[part]\n" + plate + rest_of_study() + sizes, problems);
        REQUIRE(problems.empty());
        try {
            (void)sizing_of(o.part, o.study.sizes, "t.toml");
        } catch (const InputError& e) {
            return std::string(e.what());
        }
        return std::string("none");
    };
    CHECK(has(
        thrown("[size]\n[size.local.a]\non = \"left\"\ndivisions = 4\n[size.local.b]\non = \"l*\"\ndivisions = 5\n"),
        "5 divisions of \"left\" contradict the 4 of size.local.a"));
    CHECK(
        has(thrown("[size]\n[size.local.a]\ninside = { shape = \"circle\", centre = [99, 0], radius = 1 }\nsize = 1\n"),
            "wholly outside"));
    CHECK(has(thrown("[size]\n[size.local.a]\nsize = \"x - 20\"\n"), "gives -"));
    CHECK(has(thrown("[size]\n[size.local.a]\non = \"left\"\ndivisions = 4\nbias = 2\nfiner_at = \"bore\"\n"),
              "meets \"left\""));
}

TEST_CASE("layers: what is left out follows from the rest, and scaling keeps their height") {
    const auto rows = [](const std::string& keys) {
        return open("[size]\n[size.layers.a]\non = \"left\"\n" + keys).sizing.layers.at(0);
    };
    const auto a = rows("first = 0.1\nrows = 4\ngrowth = 1.5\n");
    CHECK(a.total() == doctest::Approx(0.1 + 0.15 + 0.225 + 0.3375));
    const auto b = rows("first = 0.1\nrows = 4\ntotal = 0.8125\n");
    CHECK(b.growth == doctest::Approx(1.5));
    const auto c = rows("rows = 4\ngrowth = 1.5\ntotal = 0.8125\n");
    CHECK(c.first == doctest::Approx(0.1));
    const auto d = rows("first = 0.1\ngrowth = 1.5\ntotal = 0.8\n");
    CHECK(d.rows == 4);
    CHECK(d.total() == doctest::Approx(0.8));
    const auto o = open("[size]\n[size.layers.a]\non = \"left\"\nfirst = 0.1\nrows = 4\ngrowth = 1.5\n");
    const auto fine = o.sizing.scaled(0.5).layers.at(0);
    CHECK(fine.rows == 8);
    CHECK(fine.total() == doctest::Approx(a.total()));
    CHECK(fine.heights()[1] == doctest::Approx(0.1));  // each row is cut in two
    CHECK(fine.heights()[3] == doctest::Approx(0.25));
}

TEST_CASE("round arcs the size grows with the distance from the arc itself, whatever tree it is looked up in") {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> unit(0, 1);
    struct Arc {
        Vec2 centre;
        double radius, from, span, size;
    };
    std::vector<Arc> arcs;
    std::vector<SizeSource> sources;
    for (int k = 0; k < 120; ++k) {
        const Arc a{{{20 * unit(random), 20 * unit(random)}},
                    0.5 + 4 * unit(random),
                    6.28 * unit(random),
                    0.2 + 2.7 * unit(random),
                    0.05 + unit(random)};
        arcs.push_back(a);
        const auto at = [&](double angle) { return a.centre + Vec2{{std::cos(angle), std::sin(angle)}} * a.radius; };
        SizeSource s;
        s.form = SizeSource::Form::arc;
        s.corners = {at(a.from), at(a.from + a.span), a.centre};
        s.size = a.size;
        sources.push_back(s);
    }
    constexpr double slope = 0.3;
    const SizeField field(50, slope, 1e-3, sources);
    for (int k = 0; k < 400; ++k) {
        const Vec2 p{{24 * unit(random) - 2, 24 * unit(random) - 2}};
        double wanted = INFINITY;
        for (const Arc& a : arcs) {
            const Vec2 d = p - a.centre;
            double angle = std::atan2(d[1], d[0]) - a.from;
            while (angle < 0) angle += 2 * std::numbers::pi;
            double gap = std::fabs(norm(d) - a.radius);
            if (angle > a.span) {
                gap = INFINITY;
                for (const double end : {a.from, a.from + a.span})
                    gap = std::min(gap, distance(p, a.centre + Vec2{{std::cos(end), std::sin(end)}} * a.radius));
            }
            wanted = std::min(wanted, a.size + slope * gap);
        }
        CHECK(field.at(p) == doctest::Approx(wanted).epsilon(1e-9));
    }
}

TEST_CASE("along a boundary whose size is a formula the field follows the formula") {
    Problems problems("t.toml");
    const StudyAndPart o =
        open_study("t.toml",
                   "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 2]\nnames = { "
                   "bottom = \"foot\" }\n[size]\nglobal = 5\ngrowth = 1.3\n[size.local.foot]\non = "
                   "\"foot\"\nsize = \"0.3 + 0.1 * x + 0.004 * x^2\"\n" +
                       rest_of_study(),
                   problems);
    const Sizing sizing = sizing_of(o.part, o.study.sizes, "t.toml");
    for (double x = 0.07; x < 10; x += 0.173)
        CHECK(sizing.field.at({{x, 0}}) == doctest::Approx(0.3 + 0.1 * x + 0.004 * x * x).epsilon(4e-3));
}

TEST_CASE("a circle as a place of a size is that circle, and sizes that vary keep their slope when they are scaled") {
    const std::string round = "[[part.shape]]\nadd = \"circle\"\nradius = 10\nname = \"rim\"\n";
    Problems problems("t.toml");
    const StudyAndPart o = open_study(
        "t.toml",
        "format = 1\n[part]\n" + round +
            "[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0.3\n[support.s]\non = \"rim\"\nhold = "
            "\"fixed\"\n[load.l]\nbody_force = [1, 0]\n[size]\nglobal = 5\ngrowth = 1.2\n[size.local.fine]\non = "
            "\"rim\"\nsize = 0.4\n[size.local.varies]\ninside = { shape = \"rectangle\", corner = [-3, -3], size = [6, "
            "6] "
            "}\nsize = \"0.7 + 0.05 * x\"\n",
        problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    const Sizing sizing = sizing_of(o.part, o.study.sizes, "t.toml");
    for (double angle = 0.05; angle < 6.3; angle += 0.31)
        for (const double r : {10.0, 9.5, 8.0, 7.0})
            CHECK(sizing.field.at({{r * std::cos(angle), r * std::sin(angle)}}) ==
                  doctest::Approx(0.4 + 0.2 * (10 - r)).epsilon(1e-3));
    SizeSource along;  // 1 at its beginning, 2 at its end
    along.form = SizeSource::Form::segment;
    along.corners = {Vec2{{0, 0}}, Vec2{{10, 0}}, Vec2{}};
    along.size = 1;
    along.gradient = {{0.1, 0}};
    along.rule = 4;
    const SizeField graded(50, 0.3, 1e-3, {along});
    CHECK(graded.at({{10, 0}}) == doctest::Approx(2));
    CHECK(graded.scaled(0.5, {4}).at({{10, 0}}) == doctest::Approx(1));
    CHECK(graded.scaled(0.5, {3}).at({{10, 0}}) == doctest::Approx(2));
    const Sizing finer = sizing.scaled(0.5, {1}, {});
    for (double x = -2.5; x < 2.6; x += 0.5) {
        CHECK(sizing.field.at({{x, 0.3}}) == doctest::Approx(0.7 + 0.05 * x).epsilon(1e-2));
        CHECK(finer.field.at({{x, 0.3}}) == doctest::Approx(0.5 * (0.7 + 0.05 * x)).epsilon(1e-2));
    }
}

TEST_SUITE_END();
