#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "part/build.hpp"
#include "part/checks/check_study.hpp"
#include "study/read.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

constexpr double pi = std::numbers::pi;

double perimeter(const Part& part) {
    double sum = 0;
    for (const auto& e : part.edges) sum += e.curve.length();
    return sum;
}

const std::string plate =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 4]\nnames = { left = \"left\", right = \"right\" }\nname = "
    "\"plate\"\n";

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("a part so far away that its coordinates have no digits for it is refused") {
    const auto faults = [](const std::string& corner, const std::string& size) {
        return faults_of("format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = " + size + "\ncorner = " +
                         corner + "\nnames = { left = \"left\", right = \"right\" }\n" + rest_of_study());
    };
    for (const std::string corner : {"[1e8, -1e8]", "[1e12, 0]", "[0, -1e12]"}) {
        CAPTURE(corner);
        CHECK(has(faults(corner, "[1, 1]"), "coordinates have no digits for it"));
    }
    CHECK(faults("[1e5, -1e5]", "[1, 1]").empty());
    CHECK(faults("[1e12, 1e12]", "[1e8, 1e8]").empty());
}

TEST_CASE("a part far from the origin keeps the digits of its area") {
    // Far by 3e5 times its size: coordinates are rounded at 1e-10 of it, their products would be at 1e-5.
    const Part part = part_from(
        "[[part.shape]]\nadd = \"rectangle\"\ncorner = [3e5, -2e5]\nsize = [2, 1]\n[[part.shape]]\ncut = "
        "\"circle\"\ncentre = [300000.5, -199999.5]\nradius = 0.3\n[[part.shape]]\ncut = \"ellipse\"\ncentre = "
        "[300001.5, -199999.5]\nradii = [0.4, 0.2]\n");
    CHECK(part.area() == doctest::Approx(2 - pi * 0.09 - pi * 0.08).epsilon(1e-9));
}

TEST_CASE("areas and perimeters of the primitives") {
    const auto check = [](const std::string& shape, double area, double around) {
        const Part part = part_from("[[part.shape]]\n" + shape);
        CHECK(part.area() == doctest::Approx(area).epsilon(1e-12));
        CHECK(perimeter(part) == doctest::Approx(around).epsilon(1e-10));
    };
    check("add = \"rectangle\"\nsize = [3, 2]\n", 6, 10);
    check("add = \"rectangle\"\nsize = [3, 2]\ncorner = [-7, 5]\nangle = \"30 deg\"\n", 6, 10);
    check("add = \"rectangle\"\nsize = [3, 2]\nround = 0.5\n", 6 - (4 - pi) * 0.25, 10 - 8 * 0.5 + pi);
    check("add = \"rectangle\"\nsize = [3, 2]\nround = 1\n", 6 - (4 - pi), 2 + 2 * pi);  // rounds meet: a slot
    check("add = \"circle\"\nradius = 2\ncentre = [5, 5]\n", 4 * pi, 4 * pi);
    check("add = \"ellipse\"\nradii = [2, 1]\nangle = 0.3\n", 2 * pi, 9.688448220547675);
    check("add = \"slot\"\nfrom = [0, 0]\nto = [3, 4]\nwidth = 2\n", 10 + pi, 10 + 2 * pi);
    check("add = \"polygon\"\ncorners = [[0, 0], [4, 0], [0, 3]]\n", 6, 12);
    check("add = \"polygon\"\ncorners = [[0, 3], [4, 0], [0, 0]]\n", 6, 12);  // clockwise is turned round
}

TEST_CASE("the ends of curves are exact, and curvature and derivative fit the points") {
    const Curve c = Curve::arc({{1, 2}}, {{3, 0}}, {{0, 2}}, 0.2, 2.5);
    CHECK(c.point(0) == c.start());
    CHECK(c.point(1) == c.end());
    for (const double t : {0.1, 0.5, 0.8}) {
        const double d = 1e-6;
        const Vec2 slope = (c.point(t + d) - c.point(t - d)) / (2 * d);
        CHECK(distance(slope, c.derivative(t)) < 1e-8);
        const Vec2 a = c.derivative(t - d), b = c.derivative(t + d);
        const double turn = std::atan2(cross(a, b), dot(a, b)) / (2 * d * norm(c.derivative(t)));
        CHECK(c.curvature_radius(t) == doctest::Approx(1 / turn).epsilon(1e-5));
    }
    const Curve p = c.piece(0.25, 0.6);
    CHECK(distance(p.point(0.5), c.point(0.425)) < 1e-12);
    CHECK(c.reversed().twice_area({}) == doctest::Approx(-c.twice_area({})));
    const Box2 box = c.box();
    for (int k = 0; k <= 100; ++k) CHECK(box.distance_to(c.point(k / 100.0)) < 1e-12);
    CHECK(box.high[1] == doctest::Approx(4));
}

TEST_CASE("adding and cutting keeps the names on what is left of each edge") {
    const Part part =
        part_from(plate +
                  "[[part.shape]]\nadd = \"circle\"\ncentre = [10, 2]\nradius = 3\nname = \"eye\"\n"
                  "[[part.shape]]\ncut = \"circle\"\ncentre = [10, 2]\nradius = 1\nname = \"bore\"\n"
                  "[[part.shape]]\ncut = \"rectangle\"\ncorner = [-1, 1.5]\nsize = [3, 1]\nname = \"notch\"\n");
    REQUIRE(part.faces.size() == 1);
    CHECK(part.faces[0].loops.size() == 2);
    CHECK(length_named(part, "bore") == doctest::Approx(2 * pi));
    CHECK(length_named(part, "left") == doctest::Approx(3));
    CHECK(length_named(part, "notch") == doctest::Approx(5));
    CHECK(part.edges_named({"right"}).empty());
    const double half_angle = std::asin(2.0 / 3), x = 10 - 3 * std::cos(half_angle);
    CHECK(length_named(part, "eye") == doctest::Approx(3 * (2 * pi - 2 * half_angle)));
    const double segment = 4.5 * (2 * half_angle - std::sin(2 * half_angle));
    CHECK(part.area() == doctest::Approx(4 * x - 2 + 9 * pi - segment - pi).epsilon(1e-9));
    for (const auto& e : part.edges) {  // material on the left of every edge
        const Vec2 d = e.curve.derivative(0.5);
        CHECK(part.face_at(e.curve.point(0.5) + turned_left(d) / norm(d) * 1e-3) >= 0);
        CHECK(part.face_at(e.curve.point(0.5) - turned_left(d) / norm(d) * 1e-3) < 0);
    }
}

TEST_CASE("edges that lie on each other carry both names") {
    const Part part = part_from(
        plate + "[[part.shape]]\nadd = \"rectangle\"\ncorner = [2, 0]\nsize = [4, 6]\nnames = { bottom = \"foot\" }\n");
    CHECK(part.area() == doctest::Approx(40 + 8));
    CHECK(length_named(part, "foot") == doctest::Approx(4));
    for (const int e : part.edges_named({"foot"})) CHECK(part.edges[static_cast<std::size_t>(e)].names.size() == 2);
}

TEST_CASE("cuts may divide the part") {
    const Part part = part_from(plate + "[[part.shape]]\ncut = \"rectangle\"\ncorner = [4, -1]\nsize = [1, 6]\n");
    CHECK(part.faces.size() == 2);
    CHECK(part.area() == doctest::Approx(36));
}

TEST_CASE("random chains of shapes: every edge's name agrees with the shape it lies on") {
    std::mt19937_64 random(5);
    std::uniform_real_distribution<double> unit(0, 1);
    for (int trial = 0; trial < 40; ++trial) {
        struct Disc {
            Vec2 centre;
            double radius;
        };
        std::vector<Disc> discs;
        std::string text = "[[part.shape]]\nadd = \"circle\"\nradius = 5\nname = \"s0\"\n";
        discs.push_back({{{0, 0}}, 5});
        for (int k = 1; k <= 4; ++k) {
            const double angle = 2 * pi * unit(random);
            const Disc d{{{4.5 * std::cos(angle), 4.5 * std::sin(angle)}}, 0.6 + unit(random)};
            discs.push_back(d);
            text += "[[part.shape]]\n" + std::string(unit(random) < 0.5 ? "add" : "cut") + " = \"circle\"\ncentre = [" +
                    std::to_string(d.centre[0]) + ", " + std::to_string(d.centre[1]) +
                    "]\nradius = " + std::to_string(d.radius) + "\nname = \"s" + std::to_string(k) + "\"\n";
        }
        Problems problems("t");  // a cut may find its place already empty; the part is built all the same
        const Part part = build_part(read_study("t", "format = 1\n[part]\n" + text, problems), problems).part;
        REQUIRE(!part.edges.empty());
        for (const auto& e : part.edges) {
            REQUIRE(e.names.size() == 1);
            const std::string& name = part.boundary_names[static_cast<std::size_t>(e.names[0])];
            const Disc& d = discs[static_cast<std::size_t>(name[1] - '0')];
            for (const double t : {0.0, 0.3, 0.7, 1.0})
                CHECK(distance(e.curve.point(t), d.centre) == doctest::Approx(d.radius).epsilon(1e-5));
        }
        double turn = 0;  // the loops close
        for (const auto& f : part.faces)
            for (const auto& loop : f.loops)
                for (std::size_t k = 0; k < loop.size(); ++k)
                    turn += distance(part.vertex(part.end_of(loop[k])),
                                     part.vertex(part.start_of(loop[(k + 1) % loop.size()])));
        CHECK(turn == 0);
    }
}

TEST_CASE("parts far from the unit size come out alike") {
    for (const double s : {1e-9, 1e-6, 1.0, 1e6, 1e9}) {
        const auto n = [s](double v) { return std::to_string(v) + " * " + std::to_string(s * 1e6) + " / 1e6"; };
        const Part part = part_from("[[part.shape]]\nadd = \"rectangle\"\nsize = [\"" + n(10) + "\", \"" + n(4) +
                                    "\"]\n[[part.shape]]\ncut = \"circle\"\nradius = \"" + n(1) + "\"\ncentre = [\"" +
                                    n(5) + "\", \"" + n(4) + "\"]\n");
        CHECK(part.area() / (s * s) == doctest::Approx(40 - pi / 2).epsilon(1e-9));
    }
}

TEST_CASE("impossible outlines are told with their place") {
    const auto faults = [](const std::string& shapes) {
        return faults_of("format = 1\n[part]\n" + shapes + rest_of_study());
    };
    CHECK(has(faults("[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [2, 2], [2, 0], [0, 2]]\n"),
              "crosses itself: side 1 and side 3 of the polygon meet at (1, 1)"));
    CHECK(has(faults("[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [1, 0], [1, 0], [0, 2]]\n"),
              "are the same point"));
    CHECK(
        has(faults("[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [2, 0], [1, 0]]\n"), "turns back on itself"));
    CHECK(has(faults("[[part.shape]]\nadd = \"rectangle\"\nsize = [3, 2]\nround = 1.2\n"),
              "the largest that fits there is 1"));
    CHECK(has(
        faults("[[part.shape]]\nadd = \"polygon\"\ncorners = [[0, 0], [4, 0], [4, 1], [0, 1]]\nrounds = { 3 = 2 }\n"),
        "at corner 3"));
    CHECK(has(faults(plate + "[[part.shape]]\ncut = \"circle\"\ncentre = [30, 0]\nradius = 1\n"),
              "shape 2 cuts nothing"));
    CHECK(has(faults(plate + "[[part.shape]]\ncut = \"circle\"\nradius = 50\n"), "leave nothing"));
    const std::string inside = "format = 1\n[part]\n" + plate +
                               "[[part.shape]]\nadd = \"circle\"\ncentre = [5, 2]\nradius = 1\n" + rest_of_study();
    CHECK(has(warnings_of(inside), "leaves no edge"));
}

TEST_CASE("names are held against the part") {
    const auto faults = [](const std::string& extra) {
        return faults_of("format = 1\n[part]\n" + plate + rest_of_study() + extra);
    };
    CHECK(faults("").empty());
    CHECK(has(faults("[load.l]\non = \"rihgt\"\npressure = 1\n"), "no boundary is named \"rihgt\""));
    CHECK(has(faults("[load.l]\non = \"rihgt\"\npressure = 1\n"), "did you mean \"right\"?"));
    CHECK(has(faults("[size.local.l]\non = \"z*\"\nsize = 1\n"),
              "size.local.l: no boundary, region or point is named \"z*\""));
    CHECK(has(faults("[quantity.l]\non = \"top\"\nof = \"ux\"\n"), "quantity.l: no boundary"));
    CHECK(has(faults("[quantity.l]\non = \"top\"\nof = \"reaction_x\"\n"), "no support is named"));
    CHECK(has(faults("[quantity.l]\nat = [20, 1]\nof = \"ux\"\n"), "lies outside the part"));
    CHECK(faults("[quantity.l]\nat = [10, 2]\nof = \"ux\"\n").empty());  // on the rim
    CHECK(has(faults("[support.p]\nat = [5, 0]\nux = 0\n"), "is no corner of the outline"));
    CHECK(has(warnings_of("format = 1\n[part]\n" + plate + rest_of_study()), "\"plate\" is used by nothing"));
    const std::string cut_away = "format = 1\n[part]\n" + plate +
                                 "[[part.shape]]\ncut = \"rectangle\"\ncorner = [9, -1]\nsize = [5, 9]\n" +
                                 rest_of_study();
    CHECK(has(faults_of(cut_away), "nothing is left of the boundary \"right\""));
}

TEST_CASE("the rigid motion that is left is named") {
    const auto faults = [](const std::string& supports) {
        return faults_of(
            "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 4]\nnames = { left = \"left\", "
            "bottom = \"bottom\" }\n"
            "[[part.shape]]\ncut = \"circle\"\ncentre = [5, 2]\nradius = 1\nname = "
            "\"hole\"\n[material.m]\nyoungs_modulus = 1\npoissons_ratio = 0\n[load.l]\non = \"bottom\"\npressure = "
            "1\n" +
            supports);
    };
    CHECK(faults("[support.a]\non = \"left\"\nhold = \"fixed\"\n").empty());
    CHECK(has(faults("[support.a]\non = \"left\"\nux = 0\n"), "free to move along y"));
    CHECK(has(faults("[support.a]\non = \"bottom\"\nhold = \"symmetry\"\n"), "free to move along x"));
    CHECK(has(faults("[support.a]\nat = [10, 4]\nux = 0\nuy = 0\n"), "free to turn about (10, 4)"));
    CHECK(has(faults("[support.a]\nat = [10, 4]\nuy = 0\n"), "free to"));
    CHECK(faults("[support.a]\nat = [0, 0]\nux = 0\nuy = 0\n[support.b]\nat = [10, 0]\nuy = 0\n").empty());
    CHECK(faults("[support.a]\non = \"hole\"\nux = 0\n[support.b]\nat = [0, 0]\nuy = 0\n").empty());
    CHECK(has(faults("[support.a]\non = \"hole\"\nhold = \"symmetry\"\n"), "symmetry on a curved boundary"));
    CHECK(faults("[support.a]\non = \"bottom\"\nhold = \"symmetry\"\n[support.b]\non = \"left\"\nhold = \"symmetry\"\n")
              .empty());
    const std::string two =
        faults_of("format = 1\n[part]\n" + plate +
                  "[[part.shape]]\ncut = \"rectangle\"\ncorner = [4, -1]\nsize = [1, 6]\n" + rest_of_study());
    CHECK(has(two, "piece 2 of the part"));
    CHECK(has(two, "free to move along x and y and turn"));
}

TEST_SUITE_END();
