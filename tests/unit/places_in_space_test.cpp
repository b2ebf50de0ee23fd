// What has templates on the dimension of space, in space: numbering along a curve, elements by place, sizes by place.

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "mesh/locate.hpp"
#include "mesh/order.hpp"
#include "sizes/size_field.hpp"
#include "support/cubes.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

Vec3 random_point(std::mt19937& random, double low = 0, double high = 1) {
    std::uniform_real_distribution<> along(low, high);
    return {{along(random), along(random), along(random)}};
}

/// The nearest of very many points of a source.
double nearest_sample(const SizeSourceIn<3>& s, const Vec3& p) {
    using Form = SizeSourceIn<3>::Form;
    constexpr int n = 400;
    double best = INFINITY;
    const auto& c = s.corners;
    for (int i = 0; i <= n; ++i) {
        const double t = static_cast<double>(i) / n;
        if (s.form == Form::segment) {
            best = std::min(best, distance(p, c[0] + (c[1] - c[0]) * t));
        } else if (s.form == Form::arc) {
            const Vec3 chord = c[0] + (c[1] - c[0]) * t - c[2];
            best = std::min(best, distance(p, c[2] + chord * (distance(c[0], c[2]) / norm(chord))));
        } else {
            for (int j = 0; i + j <= n; ++j)
                best = std::min(best,
                                distance(p, c[0] + (c[1] - c[0]) * t + (c[2] - c[0]) * (static_cast<double>(j) / n)));
        }
    }
    return best;
}

}  // namespace

TEST_SUITE_BEGIN("mesh");

TEST_CASE("points of a lattice in space follow one another as neighbours") {
    std::vector<Vec3> points;
    constexpr int n = 8;
    for (int i = 0; i < n; ++i)
        for (int j = 0; j < n; ++j)
            for (int k = 0; k < n; ++k) points.push_back({{(i + 0.5) / n, (j + 0.5) / n, (k + 0.5) / n}});
    points.push_back({{0, 0, 0}});  // so that cells are eighths
    points.push_back({{1, 1, 1}});
    const auto order = hilbert_order(points);
    std::vector<int> sorted = order;
    std::sort(sorted.begin(), sorted.end());
    for (std::size_t k = 0; k < sorted.size(); ++k) CHECK(sorted[k] == static_cast<int>(k));
    int steps = 0;
    const Vec3* before = nullptr;
    for (const int k : order) {
        if (k >= n * n * n) continue;
        const Vec3& p = points[static_cast<std::size_t>(k)];
        if (before) steps += distance(p, *before) < 1.01 / n ? 1 : 0;
        before = &p;
    }
    CHECK(steps == n * n * n - 1);
}

TEST_CASE("the element that has a place in space is found, in meshes of every kind") {
    std::mt19937 random(4);
    const auto bent = [](const Vec3& p) { return p + Vec3{{0.1 * p[1] * p[2], 0.05 * std::sin(3 * p[0]), 0}}; };
    for (const CubeCut cut : all_cuts)
        for (const int degree : {1, 2}) {
            CAPTURE(static_cast<int>(cut));
            const SolidMesh mesh = cut_cube(cut, 4, degree, bent, true);
            const ElementLocatorIn<3> locator(mesh);
            for (int k = 0; k < 100; ++k) {
                const auto e = static_cast<std::size_t>(random()) % mesh.element_count();
                Vec3 xi;
                do xi = random_point(random);
                while (reference_outside(mesh.kinds[e], xi) > 0);
                const Vec3 place = evaluate<3>(mesh.kinds[e], mesh.positions(e), xi).position;
                const auto found = locator.find(place);
                REQUIRE(found);
                CHECK(found->outside < 1e-9);
                CHECK(distance(
                          evaluate<3>(mesh.kinds[found->element], mesh.positions(found->element), found->xi).position,
                          place) < 1e-9);
            }
            CHECK_FALSE(locator.find({{3, 3, 3}}));
            CHECK(locator.nearest({{-0.2, 0.5, 0.5}}).outside > 0);
        }
}

TEST_SUITE_END();

TEST_SUITE_BEGIN("sizes");

TEST_CASE("sizes in space are the least that any source asks for, with limited growth") {
    std::mt19937 random(9);
    std::uniform_real_distribution<> share(0.02, 0.2);
    using Source = SizeSourceIn<3>;
    std::vector<Source> sources;
    for (int k = 0; k < 60; ++k) {
        Source s;
        s.form = static_cast<Source::Form>(k % 4);
        for (auto& c : s.corners) c = random_point(random);
        if (s.form == Source::Form::arc) {  // ends at one distance from the centre
            const Vec3 a = s.corners[0] - s.corners[2], b = s.corners[1] - s.corners[2];
            s.corners[1] = s.corners[2] + b * (norm(a) / norm(b));
        }
        s.size = share(random);
        s.reach = k % 3 == 0 ? 0.05 : 0;
        s.rule = k;
        sources.push_back(s);
    }
    const SizeFieldIn<3> field(0.5, 0.3, 0.03, sources);
    for (int k = 0; k < 40; ++k) {
        const Vec3 p = random_point(random, -0.5, 1.5);
        double least = 0.5;
        for (const auto& s : sources) {
            const double d = s.form == Source::Form::point ? distance(p, s.corners[0]) : nearest_sample(s, p);
            least = std::min(least, s.size + 0.3 * std::max(0.0, d - s.reach));
        }
        // The samples are a four-hundredth of an edge apart.
        CHECK(field.at(p) == doctest::Approx(std::max(least, 0.03)).epsilon(0.004));
        CHECK(field.at(p) <= std::max(least, 0.03) + 1e-12);
        const Vec3 q = p + random_point(random, -0.1, 0.1);
        CHECK(std::fabs(field.at(p) - field.at(q)) <= 0.3 * distance(p, q) + 1e-12);
        std::int32_t hint = -1;
        CHECK(field.at(q, hint) == field.at(q));
        CHECK(field.at(p, hint) == field.at(p));
        CHECK(field.scaled(0.5).at(p) == doctest::Approx(field.at(p) / 2));
    }
    CHECK_THROWS((void)SizeFieldIn<3>(0.5, 0.3, 0.1, {Source{}}));
}

TEST_SUITE_END();
