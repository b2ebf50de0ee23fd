#include <doctest/doctest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "sizes/part_sizes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

TEST_SUITE_BEGIN("sizes");

namespace {

double distance_to_triangle(const Vec2& p, const SizeSource& s) {
    double best = INFINITY;  // brute force over a fine lattice of the triangle's points
    constexpr int n = 200;
    for (int i = 0; i <= n; ++i)
        for (int j = 0; i + j <= n; ++j) {
            const double a = static_cast<double>(i) / n, b = static_cast<double>(j) / n;
            best = std::min(best, distance(p, s.corners[0] * (1 - a - b) + s.corners[1] * a + s.corners[2] * b));
        }
    return best;
}

}  // namespace

TEST_CASE("a query gives the smallest of all rules, each growing with distance") {
    std::mt19937_64 random(3);
    std::uniform_real_distribution<double> unit(0, 1);
    std::vector<SizeSource> sources;
    for (int k = 0; k < 60; ++k) {
        SizeSource s;
        for (auto& c : s.corners) c = {{10 * unit(random), 10 * unit(random)}};
        s.corners[2] = s.corners[0] + (s.corners[2] - s.corners[0]) * 0.1;
        s.corners[1] = s.corners[0] + (s.corners[1] - s.corners[0]) * 0.1;
        s.form = SizeSource::Form::triangle;
        s.size = 0.05 + unit(random);
        s.rule = k;
        sources.push_back(s);
    }
    const SizeField field(2.0, 0.3, 0.1, sources);
    for (int k = 0; k < 40; ++k) {
        const Vec2 p{{10 * unit(random), 10 * unit(random)}};
        double wanted = 2.0;
        for (const auto& s : sources) wanted = std::min(wanted, s.size + 0.3 * distance_to_triangle(p, s));
        CHECK(field.at(p) == doctest::Approx(std::max(wanted, 0.1)).epsilon(0.01));
        const auto why = field.query(p);
        if (why.rule >= 0) CHECK(sources[static_cast<std::size_t>(why.rule)].size <= why.size + 1e-12);
        const Vec2 q = p + Vec2{{unit(random), unit(random)}};
        CHECK(std::fabs(field.at(p) - field.at(q)) <= 0.3 * distance(p, q) + 1e-12);  // growth is limited
        CHECK(field.scaled(0.5).at(p) == doctest::Approx(0.5 * field.at(p)));
    }
}

TEST_CASE("an arc asks for its size along all of it, by the distance to the arc and not to chords") {
    const double pi = std::numbers::pi;
    SizeSource s;
    s.form = SizeSource::Form::arc;
    const Vec2 centre{{3, -2}};
    const double radius = 50, from = 0.3, to = 1.1;
    const auto on = [&](double angle, double r) { return centre + Vec2{{std::cos(angle), std::sin(angle)}} * r; };
    s.corners = {on(from, radius), on(to, radius), centre};
    s.size = 0.01;
    const SizeField field(100, 0.2, 1e-9, {s});
    for (int k = 0; k <= 20; ++k) {
        const double angle = from + (to - from) * k / 20.0;
        CHECK(field.at(on(angle, radius)) == doctest::Approx(0.01).epsilon(1e-9));
        for (const double r : {10.0, 49.0, 51.0, 80.0})
            CHECK(field.at(on(angle, r)) == doctest::Approx(0.01 + 0.2 * std::fabs(r - radius)).epsilon(1e-9));
    }
    for (const double angle : {from - 0.5, to + 0.5, from + pi, to + pi}) {
        const Vec2 p = on(angle, 20);
        const double nearest = std::min(distance(p, s.corners[0]), distance(p, s.corners[1]));
        CHECK(field.at(p) == doctest::Approx(0.01 + 0.2 * nearest).epsilon(1e-9));
    }
}

TEST_CASE("a field that is made less steep is nowhere larger, and the same at its sources") {
    SizeSource point;
    point.corners = {Vec2{{0, 0}}, {}, {}};
    point.size = 0.01;
    const SizeField steep(2, 1.5, 0, {point});
    const SizeField mild = steep.scaled(2).no_steeper(0.5);
    CHECK(mild.steepest() == doctest::Approx(0.5));
    CHECK(mild.at({{0, 0}}) == doctest::Approx(0.02));
    CHECK(mild.at({{1, 0}}) == doctest::Approx(0.52));
    CHECK(mild.at({{50, 0}}) == doctest::Approx(4));
    CHECK(steep.no_steeper(2).at({{1, 0}}) == steep.at({{1, 0}}));
}

TEST_CASE("a floor holds beside elements that stay, and falls from there") {
    SizeSource fine, rim;
    fine.size = 0.1;
    fine.corners[0] = {{3, 0}};
    rim.form = SizeSource::Form::segment;
    rim.corners = {Vec2{{0, -1}}, Vec2{{0, 1}}, {}};
    rim.size = 1;
    const SizeField plain(5, 0.2, 1e-6, {fine}), field = plain.no_less_than({rim}, 0.5);
    for (const double x : {0.0, 0.5, 1.0, 2.0, 3.0, 4.0, 9.0}) {
        const double size = std::min(5.0, 0.1 + 0.2 * std::fabs(x - 3)), floor = 1 - 0.5 * x;
        CHECK(plain.at({{x, 0}}) == doctest::Approx(size));
        CHECK(field.at({{x, 0}}) == doctest::Approx(std::max(size, floor)));
        std::int32_t hint = -1;
        CHECK(field.at({{x, 0}}, hint) == field.at({{x, 0}}));
    }
    CHECK(field.with({fine}).at({{0, 0}}) == doctest::Approx(1));
    CHECK(plain.no_less_than({}, 1).at({{0, 0}}) == plain.at({{0, 0}}));
}

TEST_CASE("added sources are absolute, whatever the scale") {
    const SizeField field = SizeField(1, 0.3, 1e-6, {}).scaled(0.5);
    SizeSource s;
    s.corners[0] = {{3, 3}};
    s.size = 0.2;
    const SizeField more = field.with({s});
    CHECK(more.at({{3, 3}}) == doctest::Approx(0.2));
    CHECK(more.at({{100, 3}}) == doctest::Approx(0.5));
    CHECK(field.at({{3, 3}}) == doctest::Approx(0.5));
}

TEST_CASE("sizes that are not above zero are refused") {
    CHECK_THROWS_AS(SizeField(0, 0.3, 0, {}), std::invalid_argument);
    CHECK_THROWS_AS(SizeField(1, 0, 0, {}), std::invalid_argument);
    CHECK_THROWS_AS(SizeField(1, 1, 0, {SizeSource{}}), std::invalid_argument);
}

TEST_CASE("a part's rules: global, local and segments per circle") {
    const Part part = part_from(
        "[[part.shape]]\nadd = \"rectangle\"\nsize = [10, 10]\nnames = { left = \"left\" }\n[[part.shape]]\ncut = "
        "\"circle\"\ncentre = [6, 5]\nradius = 1\n");
    SizeSpec spec;
    spec.global = 1.0;
    spec.segments_per_circle = 20;
    spec.local.push_back(length_on("left", 0.1));
    const SizeField field = sizing_of(part, spec, {}).field;
    CHECK(field.at({{0, 7}}) == doctest::Approx(0.1));
    CHECK(field.at({{1, 7}}) == doctest::Approx(0.4));
    CHECK(field.at({{7, 5}}) == doctest::Approx(2 * std::numbers::pi / 20));
    CHECK(field.at({{10, 0}}) == doctest::Approx(1.0));
    CHECK(suggested_size(part) == doctest::Approx(std::sqrt(100 - std::numbers::pi) / 12));
}

TEST_SUITE_END();
