// Spline surfaces: values, nearest points, bends, and the flat map that their faces are meshed on.

#include <doctest/doctest.h>

#include <cmath>
#include <numbers>

#include "part/solid/chart.hpp"

using namespace dotsift;

namespace {

using std::numbers::pi;

/// An eighth of a sphere by quarter circles (Piegl & Tiller 1997, sec. 8.5); its pole is an edge of the parameters.
SplineSurface octant(double radius) {
    SplineSurface s;
    s.degree = {2, 2};
    s.knots[0] = s.knots[1] = {0, 0, 0, 1, 1, 1};
    const double half = std::sqrt(0.5);
    const std::array<Vec2, 3> quarter{{{{1, 0}}, {{1, 1}}, {{0, 1}}}};
    const std::array<double, 3> weight{1, half, 1};
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j) {
            const double out = quarter[j][0] * radius;
            s.poles.push_back({{quarter[i][0] * out, quarter[i][1] * out, quarter[j][1] * radius}});
            s.weights.push_back(weight[i] * weight[j]);
        }
    return s;
}

/// Degrees 3 and 2, with knots inside, without weights.
SplineSurface hill() {
    SplineSurface s;
    s.degree = {3, 2};
    s.knots[0] = {0, 0, 0, 0, 1, 2.5, 4, 4, 4, 4};
    s.knots[1] = {0, 0, 0, 1, 2, 2, 2};
    for (int i = 0; i < 6; ++i)
        for (int j = 0; j < 4; ++j)
            s.poles.push_back({{2.0 * i, 3.0 * j + 0.2 * i, std::sin(0.8 * i) + 0.5 * std::cos(1.1 * j)}});
    return s;
}

}  // namespace

TEST_SUITE_BEGIN("part");

TEST_CASE("derivatives of spline surfaces are those of their values, and turned over they are the same places") {
    for (const SplineSurface& s : {octant(3), hill()}) {
        REQUIRE(s.fault() == nullptr);
        const Vec2 low = s.low(), span = s.high() - s.low();
        for (const Vec2 share : {Vec2{{0.2, 0.3}}, Vec2{{0.71, 0.44}}, Vec2{{0.55, 0.9}}}) {
            const Vec2 at{{low[0] + share[0] * span[0], low[1] + share[1] * span[1]}};
            const auto v = s.at(at);
            const double e = 1e-5;
            const auto place = [&](double u, double w) { return s.at(at + Vec2{{u, w}}, 0).point; };
            CHECK(norm(v.du - (place(e, 0) - place(-e, 0)) / (2 * e)) < 1e-8);
            CHECK(norm(v.dv - (place(0, e) - place(0, -e)) / (2 * e)) < 1e-8);
            CHECK(norm(v.duu - (place(e, 0) - v.point * 2 + place(-e, 0)) / (e * e)) < 1e-4);
            CHECK(norm(v.dvv - (place(0, e) - v.point * 2 + place(0, -e)) / (e * e)) < 1e-4);
            CHECK(norm(v.duv - (place(e, e) - place(e, -e) - place(-e, e) + place(-e, -e)) / (4 * e * e)) < 1e-4);
            const Surface one = Surface::spline(s), other = one.turned_over();
            CHECK(norm(other.point({{low[0] + (1 - share[0]) * span[0], at[1]}}) - v.point) < 1e-14);
            CHECK(dot(one.normal(at), other.normal(other.project(v.point))) == doctest::Approx(-1));
        }
    }
}

TEST_CASE("a sphere's eighth bends like a sphere, at its pole too, and knows its nearest places") {
    constexpr double r = 3;
    const Surface s = Surface::spline(octant(r));
    for (const Vec2 at : {Vec2{{0.1, 0.2}}, Vec2{{0.5, 0.5}}, Vec2{{0.9, 0.97}}, Vec2{{0.3, 1}}, Vec2{{1, 0}}}) {
        CAPTURE(at[0]);
        CAPTURE(at[1]);
        const Vec3 p = s.point(at);
        CHECK(norm(p) == doctest::Approx(r));
        CHECK(std::fabs(dot(s.normal(at), p)) == doctest::Approx(r));
        for (const double bend : s.curvature_radii(at)) CHECK(std::fabs(bend) == doctest::Approx(r).epsilon(1e-4));
        CHECK(norm(s.point(s.project(p * 1.3)) - p) < 1e-8);
        CHECK(norm(s.point(s.project(p * 0.6, {{0.5, 0.5}})) - p) < 1e-8);
    }
    // Beyond its rim the nearest place lies on the rim.
    CHECK(norm(s.point(s.project({{4, -1, 0}})) - Vec3{{r, 0, 0}}) < 1e-8);
}

TEST_CASE("spline surfaces are laid flat nearly without a change of angles, and found again") {
    for (const SplineSurface& spline : {octant(3), hill()}) {
        const Chart chart(Surface::spline(spline));
        const Vec2 low = spline.low(), span = spline.high() - spline.low();
        double worst_angle = 0, worst_scale = 0;
        for (int i = 0; i < 12; ++i)
            for (int j = 0; j < 12; ++j) {
                const Vec2 at{{low[0] + (i + 0.37) / 12 * span[0], low[1] + (j + 0.41) / 12 * span[1]}};
                const Vec2 flat = chart.flat(at), back = chart.parameters(flat);
                CHECK(distance(back, at) < 1e-9 * norm(span));
                // Two directions at right angles on the flat, over a cell of its grid.
                const double step = 0.05 * norm(span);
                const Vec3 p = chart.point(flat), x = chart.point(flat + Vec2{{step, 0}}) - p,
                           y = chart.point(flat + Vec2{{0, step}}) - p;
                if (i < 2 || i > 9 || j < 2 || j > 9) continue;  // beyond the rim it does not go on
                worst_angle = std::max(worst_angle, std::fabs(dot(x, y)) / (norm(x) * norm(y)));
                const double scale = chart.scale(at);
                worst_scale = std::max(
                    {worst_scale, std::fabs(norm(x) / step / scale - 1), std::fabs(norm(y) / step / scale - 1)});
            }
        CHECK(worst_angle < 0.12);  // 7 degrees
        CHECK(worst_scale < 0.2);
    }
}

TEST_CASE("what is wrong with a spline surface is told") {
    const auto fault = [](auto change) {
        SplineSurface s = octant(1);
        change(s);
        return std::string(s.fault() ? s.fault() : "");
    };
    CHECK(fault([](auto& s) { s.degree[1] = 0; }).find("degree") != std::string::npos);
    CHECK(fault([](auto& s) { s.knots[0].pop_back(); }).find("too few") != std::string::npos);
    CHECK(fault([](auto& s) { s.knots[0][3] = NAN; }).find("finite") != std::string::npos);
    CHECK(fault([](auto& s) { s.knots[0][1] = 2; }).find("ascend") != std::string::npos);
    CHECK(fault([](auto& s) { s.weights[4] = 0; }).find("weight") != std::string::npos);
    CHECK(fault([](auto& s) { s.weights.pop_back(); }).find("one weight") != std::string::npos);
    CHECK(fault([](auto& s) { s.poles.pop_back(); }).find("number of its knots") != std::string::npos);
    CHECK(fault([](auto& s) { s.poles[2][1] = INFINITY; }).find("control point") != std::string::npos);
    CHECK(fault([](auto&) {}).empty());
}

TEST_SUITE_END();
