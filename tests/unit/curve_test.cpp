#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <numbers>
#include <random>

#include "part/combine/contact.hpp"
#include "part/curve.hpp"
#include "part/shapes/pieces.hpp"

using namespace dotsift;

namespace {

constexpr double pi = std::numbers::pi;

Curve spline_of(const std::vector<Vec2>& points) {
    const auto nurbs = std::make_shared<const Nurbs>(spline_through(points));
    return Curve::spline(nurbs, nurbs->low(), nurbs->high());
}

/// A quarter of the unit circle as a rational quadratic.
Curve rational_quarter() {
    Nurbs n;
    n.degree = 2;
    n.knots = {0, 0, 0, 1, 1, 1};
    n.poles = {{{1, 0}}, {{1, 1}}, {{0, 1}}};
    n.weights = {1, std::sqrt(0.5), 1};
    return Curve::spline(std::make_shared<const Nurbs>(n), 0, 1);
}

std::vector<Curve> many_curves() {
    const Curve s = spline_of({{{0, 0}}, {{2, 1}}, {{3, -1}}, {{5, 0.5}}, {{6, 3}}}),
                even = spline_of({{{6, 0}}, {{5, 2}}, {{3, 1}}, {{1, 2}}, {{0, 0}}});  // extremes at its knots
    return {Curve::line({{1, 2}}, {{4, -1}}),
            Curve::arc({{1, 1}}, {{2, 0}}, {{0, 2}}, 0.3, 4.0),
            Curve::arc({{1, 1}}, {{2, 0}}, {{0, 2}}, 4.0, 0.3),
            Curve::arc({{-1, 2}}, {{3, 1}}, {{-0.2, 0.6}}, -1, 2.5),
            Curve::arc({{1, 1}}, {{1, 0.5}}, {{-1, 2}}, 0, 2 * pi),
            s,
            even,
            s.reversed(),
            s.piece(0.2, 0.7),
            rational_quarter(),
            Curve::chain({Curve::line({{0, 0}}, {{1, 0}}), Curve::arc({{1, 1}}, {{0, -1}}, {{1, 0}}, 0, pi / 2)})};
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("derivatives of every kind of curve fit their points, and ends are exact") {
    for (const Curve& c : many_curves()) {
        CHECK(c.point(0) == c.start());
        CHECK(c.point(1) == c.end());
        CHECK(distance(c.reversed().point(0.3), c.point(0.7)) < 1e-12);
        for (const double t : {0.07, 0.31, 0.55, 0.93}) {
            const double d = 1e-5;
            const Vec2 slope = (c.point(t + d) - c.point(t - d)) / (2 * d);
            CHECK(distance(slope, c.derivative(t)) < 1e-6 * (1 + norm(slope)));
            const Vec2 bend = (c.derivative(t + d) - c.derivative(t - d)) / (2 * d);
            CHECK(distance(bend, c.second_derivative(t)) < 1e-5 * (1 + norm(bend)));
        }
        const Box2 box = c.box();
        double nearest = 1e9;
        for (int k = 0; k <= 400; ++k) {
            CHECK(box.distance_to(c.point(k / 400.0)) < 1e-9);
            nearest = std::min(nearest, std::fabs(c.point(k / 400.0)[0] - box.low[0]));
        }
        CHECK(nearest < 1e-2);
    }
}

TEST_CASE("length and area by quadrature agree with fine polygons") {
    for (const Curve& c : many_curves()) {
        double length = 0, area = 0;
        constexpr int n = 40000;
        for (int k = 0; k < n; ++k) {
            const Vec2 a = c.point(static_cast<double>(k) / n), b = c.point(static_cast<double>(k + 1) / n);
            length += distance(a, b);
            area += cross(a, b);
        }
        CHECK(c.length() == doctest::Approx(length).epsilon(1e-7));
        CHECK(c.twice_area({}) == doctest::Approx(area).epsilon(1e-6).scale(1));
    }
    CHECK(rational_quarter().length() == doctest::Approx(pi / 2).epsilon(1e-10));
    CHECK(rational_quarter().curvature_radius(0.3) == doctest::Approx(1).epsilon(1e-12));
}

TEST_CASE("the nearest point is as near as any of many samples") {
    std::mt19937_64 random(3);
    std::uniform_real_distribution<double> place(-3, 7);
    for (const Curve& c : many_curves())
        for (int trial = 0; trial < 40; ++trial) {
            const Vec2 p{{place(random), place(random)}};
            double least = 1e9;
            for (int k = 0; k <= 2000; ++k) least = std::min(least, distance(c.point(k / 2000.0), p));
            CHECK(distance(c.point(c.project(p)), p) <= least + 1e-12);
        }
}

TEST_CASE("a point on a curve is found again at its parameter") {
    for (const Curve& c : many_curves()) {
        if (c.closed()) continue;
        for (const double t : {0.0, 0.2, 0.5, 0.77, 1.0})
            CHECK(c.project(c.point(t)) == doctest::Approx(t).epsilon(1e-7));
    }
}

TEST_CASE("a spline runs through its points, is smooth twice, and reproduces what it can") {
    const std::vector<Vec2> points{{{0, 0}}, {{1, 2}}, {{3, 1}}, {{4, 4}}, {{7, 3}}};
    const Nurbs s = spline_through(points);
    REQUIRE(s.fault() == nullptr);
    double t = 0;
    for (std::size_t i = 0; i < points.size(); ++i) {
        if (i > 0) t += distance(points[i], points[i - 1]);
        CHECK(distance(s.at(t)[0], points[i]) < 1e-12);
        if (i == 0 || i + 1 == points.size()) {
            CHECK(norm(s.at(t)[2]) < 1e-10);
            continue;
        }
        CHECK(distance(s.at(t - 1e-9)[1], s.at(t + 1e-9)[1]) < 1e-7);
        CHECK(distance(s.at(t - 1e-9)[2], s.at(t + 1e-9)[2]) < 1e-6);
    }
    const Nurbs straight = spline_through<2>({{{0, 0}}, {{1, 1}}, {{5, 5}}});
    CHECK(distance(straight.at(3)[0], {{3 / std::sqrt(2), 3 / std::sqrt(2)}}) < 1e-12);
    std::vector<Vec2> ring;
    for (int k = 0; k <= 24; ++k) ring.push_back({{std::cos(k * pi / 12), std::sin(k * pi / 12)}});
    ring.back() = ring.front();
    const Nurbs closed = spline_through(ring);
    CHECK(distance(closed.at(closed.low())[1], closed.at(closed.high())[1]) < 1e-10);  // smooth at the joint
    for (int k = 0; k < 100; ++k)
        CHECK(norm(closed.at(closed.low() + (closed.high() - closed.low()) * k / 100)[0]) ==
              doctest::Approx(1).epsilon(1e-4));
}

TEST_CASE("a spline cut by knot insertion is the same curve") {
    const Nurbs s = spline_through<2>({{{0, 0}}, {{1, 2}}, {{3, 1}}, {{4, 4}}, {{7, 3}}});
    const double a = s.low() + 0.13 * (s.high() - s.low()), b = s.low() + 0.81 * (s.high() - s.low());
    for (const auto& cut : {s.restricted(a, b), s.restricted(s.low(), b), s.restricted(a, s.high())}) {
        REQUIRE(cut.fault() == nullptr);
        for (int k = 0; k <= 20; ++k) {
            const double u = cut.low() + (cut.high() - cut.low()) * k / 20;
            CHECK(distance(cut.at(u)[0], s.at(u)[0]) < 1e-12);
        }
    }
    const Nurbs quarter = rational_quarter().nurbs().restricted(0.3, 0.6);
    CHECK(norm(quarter.at(0.45)[0]) == doctest::Approx(1).epsilon(1e-13));
}

TEST_CASE("pieces join to the whole again, and maps move points") {
    const Affine map =
        Affine::move({{3, -1}}).after(Affine::rotation(0.7, {{1, 1}}).after(Affine::mirror({{0, 1}}, {{2, 1}})));
    const Affine shear{{{2, 0.3}}, {{-0.4, 0.7}}, {{1, 5}}};
    for (const Curve& c : many_curves()) {
        for (const Affine& m : {map, shear}) {
            if (c.kind() == Curve::Kind::chain && &m == &shear) continue;
            for (const double t : {0.0, 0.25, 0.6, 1.0})
                CHECK(distance(c.transformed(m).point(t), m(c.point(t))) <
                      (c.kind() == Curve::Kind::chain ? 0.5 : 1e-12));
        }
        if (c.kind() == Curve::Kind::chain) continue;
        const auto whole = Curve::joined(c.piece(0, 0.4), c.piece(0.4, 1));
        REQUIRE(whole);
        CHECK(distance(whole->point(0.8), c.point(0.8)) < 1e-12);
    }
    CHECK(Affine::mirror({{0, 0}}, {{1, 1}}).determinant() == doctest::Approx(-1));
}

TEST_CASE("arcs by three points, bulge and radius are the same arc") {
    const Vec2 a{{3, 1}}, b{{1, 3}};  // a quarter about (1, 1)
    const Curve through = arc_through(a, {{1 + std::sqrt(2), 1 + std::sqrt(2)}}, b);
    const Curve bulge = arc_of_bulge(a, b, std::tan(pi / 8));
    for (const Curve& c : {through, bulge}) {
        CHECK(c.start() == a);
        CHECK(c.end() == b);
        CHECK(c.length() == doctest::Approx(pi).epsilon(1e-12));
        CHECK(distance(c.centre(), {{1, 1}}) < 1e-12);
    }
    CHECK(arc_of_bulge(a, b, -1).length() == doctest::Approx(pi * std::sqrt(2)).epsilon(1e-12));  // half a circle
    CHECK(arc_through({{0, 0}}, {{1, 1}}, {{2, 2}}).straight());
}

TEST_CASE("contact finds crossings, touches and overlaps, and forgives shared ends") {
    constexpr double tolerance = 1e-9;
    const auto meets = [&](const Curve& a, const Curve& b) { return contact(Stretches(a), Stretches(b), tolerance); };
    const Curve x = Curve::line({{0, 0}}, {{4, 0}});
    const auto at = meets(x, Curve::line({{1, -1}}, {{3, 1}}));
    REQUIRE(at);
    CHECK(distance(*at, {{2, 0}}) < 1e-9);
    CHECK(meets(x, Curve::arc({{2, 1}}, {{1, 0}}, {{0, 1}}, 0, 2 * pi)));        // touches
    CHECK(!meets(x, Curve::arc({{2, 1.0001}}, {{1, 0}}, {{0, 1}}, 0, 2 * pi)));  // just misses
    CHECK(!meets(x, Curve::line({{4, 0}}, {{4, 3}})));                           // shares an end
    CHECK(!meets(x, Curve::arc({{4, 1}}, {{0, -1}}, {{1, 0}}, 0, pi)));          // goes on smoothly
    CHECK(!meets(x, Curve::arc({{4, 1}}, {{0, -1}}, {{-1, 0}}, 0, 1)));          // turns back, tangent
    CHECK(meets(x, Curve::line({{4, 0}}, {{2, 0}})));                            // turns back on itself
    CHECK(meets(x, Curve::line({{4, 0}}, {{0, 0}})));                            // the same
    CHECK(meets(x, Curve::line({{-1, 0}}, {{1, 0}})));                           // overlaps
    CHECK(meets(Curve::arc({{0, 0}}, {{1, 0}}, {{0, 1}}, 0, 2), Curve::arc({{0, 0}}, {{1, 0}}, {{0, 1}}, 1, 3)));
    const Curve loop = spline_of({{{0, 0}}, {{2, 2}}, {{3, 1}}, {{2, 0}}, {{0, 2}}});
    CHECK(self_contact(loop, tolerance));
    CHECK(!self_contact(many_curves()[5], tolerance));
    std::mt19937_64 random(8);
    std::uniform_real_distribution<double> unit(0, 1);
    for (int trial = 0; trial < 300; ++trial) {  // against the closed form for two lines
        const auto p = [&] { return Vec2{{unit(random), unit(random)}}; };
        const Vec2 a = p(), b = p(), c = p(), d = p();
        const double u = cross(b - a, c - a) * cross(b - a, d - a), v = cross(d - c, a - c) * cross(d - c, b - c);
        CHECK(meets(Curve::line(a, b), Curve::line(c, d)).has_value() == (u < 0 && v < 0));
    }
}

TEST_SUITE_END();
