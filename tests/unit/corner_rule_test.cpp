// Quadrature at singular corners against integrals in polar coordinates.

#include "recovery/fit/corner_rule.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace dotsift;

namespace {

double angle_between(const Vec2& a, const Vec2& b) {
    return std::atan2(cross(a, b), dot(a, b));
}

/// The integral of r^power cos(turns * angle), r and the angle from `zero` at the origin, over the triangle with two
/// more corners.
double polar(const Vec2& a, const Vec2& b, double power, double turns, const Vec2& zero) {
    const double from = angle_between(zero, a), to = angle_between(zero, b), of_zero = std::atan2(zero[1], zero[0]);
    constexpr int steps = 2000;  // midpoints
    double sum = 0;
    for (int i = 0; i < steps; ++i) {
        const double angle = from + (to - from) * (i + 0.5) / steps;
        const Vec2 ray{{std::cos(of_zero + angle), std::sin(of_zero + angle)}};
        const double far = cross(a, b) / cross(ray, b - a);
        sum += std::pow(far, power + 2) / (power + 2) * std::cos(turns * angle);
    }
    return sum * (to - from) / steps;
}

}  // namespace

TEST_SUITE_BEGIN("recovery");

TEST_CASE("squares of the stress at a singular corner are integrated over every kind of element") {
    for (const auto kind :
         {ElementKind::triangle3, ElementKind::triangle6, ElementKind::quadrilateral4, ElementKind::quadrilateral9})
        for (int corner = 0; corner < corner_count(kind); ++corner)
            for (const double exponent : {0.25, 0.5, 0.5445, 0.75, 0.95}) {
                CAPTURE(static_cast<int>(kind));
                CAPTURE(corner);
                CAPTURE(exponent);
                // An element with straight sides whose corner is the origin; a map of the reference element that
                // turns and stretches it.
                const auto place = [&](const Vec2& xi) {
                    const Vec2 d = xi - reference_corner(kind, corner);
                    return Vec2{{1.3 * d[0] + 0.4 * d[1], -0.2 * d[0] + 0.8 * d[1]}};
                };
                constexpr double area = 1.3 * 0.8 + 0.2 * 0.4;
                const Vec2 middle = place(reference_middle(kind));
                const auto integral = [&](double power, double turns) {
                    double sum = 0;
                    for (const auto& q : points_towards(kind, {reference_corner(kind, corner), exponent}, 6)) {
                        const Vec2 p = place(q.xi);
                        sum += q.weight * area * std::pow(norm(p), power) * std::cos(turns * angle_between(middle, p));
                    }
                    return sum;
                };
                const auto exact = [&](double power, double turns) {
                    double sum = 0;
                    for (const auto& t : reference_triangles(kind)) {
                        for (int k = 0; k < 3; ++k)
                            if (t[static_cast<std::size_t>(k)] == reference_corner(kind, corner))
                                sum += polar(place(t[static_cast<std::size_t>((k + 1) % 3)]),
                                             place(t[static_cast<std::size_t>((k + 2) % 3)]), power, turns, middle);
                    }
                    return sum;
                };
                // Two triangles of a quadrilateral of which only one has the corner: the other is as smooth as any.
                int with_corner = 0;
                for (const auto& t : reference_triangles(kind))
                    for (const auto& p : t) with_corner += p == reference_corner(kind, corner) ? 1 : 0;
                if (static_cast<std::size_t>(with_corner) < reference_triangles(kind).size()) {
                    double whole = 0;
                    for (const auto& q : points_towards(kind, {reference_corner(kind, corner), exponent}, 6))
                        whole += q.weight;
                    CHECK(whole == doctest::Approx(1).epsilon(1e-3));
                    continue;
                }
                // The stress squared, its product with a smooth field, and smooth fields
                CHECK(integral(2 * exponent - 2, 0) == doctest::Approx(exact(2 * exponent - 2, 0)).epsilon(1e-3));
                CHECK(integral(2 * exponent - 2, 0.4) == doctest::Approx(exact(2 * exponent - 2, 0.4)).epsilon(1e-3));
                CHECK(integral(exponent - 1, 0) == doctest::Approx(exact(exponent - 1, 0)).epsilon(1e-3));
                CHECK(integral(0, 0) == doctest::Approx(exact(0, 0)).epsilon(1e-3));
                CHECK(integral(2, 0) == doctest::Approx(exact(2, 0)).epsilon(5e-3));  // far from what the rule is for
            }
}

TEST_SUITE_END();
