// Orientation and in-sphere tests in space: their signs are exact, whatever the points.

#include <doctest/doctest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <random>

#include "base/predicates.hpp"

using namespace dotsift;

namespace {

int sign(double v) {
    return v > 0 ? 1 : v < 0 ? -1 : 0;
}

/// The corners of a cube on a lattice: all on one sphere, many on one plane.
std::array<Vec3, 8> cube(const Vec3& at, double size) {
    std::array<Vec3, 8> out;
    for (std::size_t k = 0; k < 8; ++k) out[k] = at + Vec3{{k % 2 ? size : 0, k / 2 % 2 ? size : 0, k / 4 ? size : 0}};
    return out;
}

Vec3 random_point(std::mt19937& random, double low, double high) {
    std::uniform_real_distribution<double> place(low, high);
    return {{place(random), place(random), place(random)}};
}

}  // namespace

TEST_SUITE_BEGIN("base");

TEST_CASE("the orientation in space is that of the volume, and turns with two points") {
    CHECK(orientation(Vec3{{0, 0, 0}}, Vec3{{1, 0, 0}}, Vec3{{0, 1, 0}}, Vec3{{0, 0, 1}}) == 1);
    std::mt19937 random(5);
    for (int k = 0; k < 2000; ++k) {
        std::array<Vec3, 4> p;
        for (auto& q : p) q = random_point(random, -1, 1);
        if (k % 2) p[3] = p[0] * 0.3 + p[1] * 0.5 + p[2] * 0.2;  // as good as in the plane
        const double value = orientation(p[0], p[1], p[2], p[3]);
        CHECK(sign(value) == sign(predicates::exact_orientation(p[0], p[1], p[2], p[3])));
        CHECK(sign(orientation(p[1], p[0], p[2], p[3])) == -sign(value));
        CHECK(sign(orientation(p[3], p[2], p[1], p[0])) == sign(value));
        if (k % 2 == 0) CHECK(value == doctest::Approx(dot(cross(p[1] - p[0], p[2] - p[0]), p[3] - p[0])));
    }
}

TEST_CASE("points of a lattice lie exactly on planes and spheres, and beside them after one step of the last digit") {
    for (const Vec3& at : {Vec3{}, Vec3{{1e6, -3.25, 0.125}}, Vec3{{-7, 1e-3, 1e3}}})
        for (const double size : {1.0, 0.1, 0.375}) {
            const auto c = cube(at, 1);
            CHECK(orientation(c[0], c[1], c[2], c[3]) == 0);
            CHECK(orientation(c[0], c[3], c[4], c[7]) == 0);
            // Only what is exactly a cube has its corners on one sphere.
            const auto d = cube(Vec3{}, size);
            for (std::size_t k = 0; k < 8; ++k) {
                const double in = in_sphere(d[0], d[1], d[2], d[4], d[k]);
                CHECK(in == 0);
                for (std::size_t a = 0; a < 3; ++a) {
                    Vec3 inside = d[k], outside = d[k];
                    inside[a] = std::nextafter(inside[a], size / 2);
                    outside[a] = std::nextafter(outside[a], d[k][a] > size / 2 ? 2 * size : -size);
                    CHECK(in_sphere(d[0], d[1], d[2], d[4], inside) > 0);
                    CHECK(in_sphere(d[0], d[1], d[2], d[4], outside) < 0);
                }
            }
        }
}

TEST_CASE("the sphere test agrees with exact numbers, and changes its sign with two points") {
    std::mt19937 random(11);
    for (int k = 0; k < 2000; ++k) {
        std::array<Vec3, 5> p;
        for (auto& q : p) {
            q = random_point(random, -1, 1);
            if (k % 2) q = q / norm(q);  // as good as on the sphere
        }
        const double side = orientation(p[0], p[1], p[2], p[3]);
        if (side == 0) continue;
        const double value = in_sphere(p[0], p[1], p[2], p[3], p[4]);
        CHECK(sign(value) == sign(predicates::exact_in_sphere(p[0], p[1], p[2], p[3], p[4])));
        CHECK(sign(in_sphere(p[1], p[0], p[2], p[3], p[4])) == -sign(value));
        if (k % 2) continue;
        // The centre is as far from all four.
        const Vec3 b = p[1] - p[0], c = p[2] - p[0], d = p[3] - p[0];
        const Vec3 centre =
            (cross(c, d) * dot(b, b) + cross(d, b) * dot(c, c) + cross(b, c) * dot(d, d)) / (2 * dot(b, cross(c, d)));
        const double gap = norm(centre) - distance(p[4] - p[0], centre);
        if (std::fabs(gap) > 1e-6) CHECK(sign(value) == sign(gap) * sign(side));
    }
}

TEST_CASE("numbers of any size are told apart") {
    const double tiny = 1e-200, huge = 1e100;
    CHECK(orientation(Vec3{{0, 0, 0}}, Vec3{{huge, 0, 0}}, Vec3{{0, huge, 0}}, Vec3{{0, 0, tiny}}) > 0);
    CHECK(orientation(Vec3{{0, 0, 0}}, Vec3{{huge, 0, 0}}, Vec3{{0, huge, 0}}, Vec3{{0, 0, -tiny}}) < 0);
    CHECK(in_sphere(Vec3{{1, 0, 0}}, Vec3{{0, 1, 0}}, Vec3{{0, 0, 1}}, Vec3{{0, 0, -1}}, Vec3{{-1, tiny, 0}}) *
              orientation(Vec3{{1, 0, 0}}, Vec3{{0, 1, 0}}, Vec3{{0, 0, 1}}, Vec3{{0, 0, -1}}) <
          0);
    CHECK(orientation(Vec2{{0, 0}}, Vec2{{huge, 0}}, Vec2{{1, tiny}}) > 0);
    CHECK(in_circle(Vec2{{1, 0}}, Vec2{{0, 1}}, Vec2{{-1, 0}}, Vec2{{tiny, -1}}) < 0);
}

TEST_SUITE_END();
