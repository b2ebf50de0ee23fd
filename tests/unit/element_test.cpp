#include "mesh/elements/element.hpp"
#include "mesh/elements/jacobian_bound.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "mesh/elements/shape.hpp"

using namespace dotsift;

namespace {

constexpr std::array kinds{ElementKind::triangle3, ElementKind::triangle6, ElementKind::quadrilateral4,
                           ElementKind::quadrilateral9};

/// Reference positions of all nodes of a kind.
std::vector<Vec2> reference_nodes(ElementKind kind) {
    const int corners = corner_count(kind);
    std::vector<Vec2> nodes;
    for (int c = 0; c < corners; ++c) nodes.push_back(reference_corner(kind, c));
    if (polynomial_degree(kind) == 2) {
        for (int s = 0; s < corners; ++s) nodes.push_back(reference_on_side(kind, s, 0.5));
        if (corners == 4) nodes.push_back(reference_middle(kind));
    }
    return nodes;
}

double factorial(int n) {
    return n <= 1 ? 1 : n * factorial(n - 1);
}

}  // namespace

TEST_SUITE_BEGIN("mesh");

TEST_CASE("shape functions are one at their node, sum to one, and have the right derivatives") {
    std::mt19937 random(3);
    std::uniform_real_distribution<> share(0, 0.5);
    for (const ElementKind kind : kinds) {
        const auto nodes = reference_nodes(kind);
        const auto count = static_cast<std::size_t>(node_count(kind));
        REQUIRE(nodes.size() == count);
        std::array<double, most_element_nodes> n{}, m{};
        std::array<Vec2, most_element_nodes> dn{};
        for (std::size_t i = 0; i < count; ++i) {
            shape_values(kind, nodes[i], n);
            for (std::size_t j = 0; j < count; ++j) CHECK(n[j] == doctest::Approx(i == j ? 1 : 0));
        }
        for (int k = 0; k < 20; ++k) {
            const Vec2 xi{{share(random), share(random)}};
            shape_values(kind, xi, n);
            double sum = 0;
            for (std::size_t i = 0; i < count; ++i) sum += n[i];
            CHECK(sum == doctest::Approx(1));
            shape_derivatives(kind, xi, dn);
            constexpr double step = 1e-6;
            for (std::size_t axis = 0; axis < 2; ++axis) {
                Vec2 next = xi;
                next[axis] += step;
                shape_values(kind, next, m);
                for (std::size_t i = 0; i < count; ++i)
                    CHECK(dn[i][axis] == doctest::Approx((m[i] - n[i]) / step).epsilon(1e-4).scale(1));
            }
        }
    }
}

TEST_CASE("quadrature is exact up to its degree") {
    for (const ElementKind kind : {ElementKind::triangle3, ElementKind::quadrilateral4})
        for (const int degree : {1, 2, 4, 6})
            for (int a = 0; a <= degree; ++a)
                for (int b = 0; a + b <= degree; ++b) {
                    double sum = 0;
                    for (const auto& q : quadrature(kind, degree))
                        sum += q.weight * std::pow(q.xi[0], a) * std::pow(q.xi[1], b);
                    const double exact = corner_count(kind) == 3 ? factorial(a) * factorial(b) / factorial(a + b + 2)
                                                                 : 1.0 / ((a + 1) * (b + 1));
                    CHECK(sum == doctest::Approx(exact).epsilon(1e-12));
                }
}

TEST_CASE("the Jacobian's bound is below every value, close to the least, and tells inverted elements") {
    std::mt19937 random(5);
    std::uniform_real_distribution<> shift(-0.22, 0.22);
    int valid = 0, invalid = 0;
    for (const ElementKind kind : kinds)
        for (int k = 0; k < 300; ++k) {
            auto nodes = reference_nodes(kind);
            for (auto& p : nodes) p += Vec2{{shift(random), shift(random)}};
            const double bound = jacobian_bound(kind, nodes);
            double least = INFINITY, sum = 0, weight = 0;
            constexpr int n = 24;
            for (int i = 0; i <= n; ++i)
                for (int j = 0; j <= n; ++j) {
                    const Vec2 xi{{static_cast<double>(i) / n, static_cast<double>(j) / n}};
                    if (reference_outside(kind, xi) <= 0) least = std::min(least, evaluate(kind, nodes, xi).jacobian);
                }
            for (const auto& q : quadrature(kind, 6)) {
                sum += q.weight * evaluate(kind, nodes, q.xi).jacobian;
                weight += q.weight;
            }
            if (!(sum > 0)) continue;
            const double ratio = least / (sum / weight);
            CHECK(bound <= ratio + 1e-9);
            (bound > 0 ? valid : invalid) += 1;
            if (least < 0) CHECK(bound < 0);
        }
    CHECK(valid > 100);
    CHECK(invalid > 20);
}

TEST_CASE("reference coordinates are found again in distorted elements") {
    std::mt19937 random(11);
    std::uniform_real_distribution<> shift(-0.08, 0.08), share(0.05, 0.45);
    for (const ElementKind kind : kinds)
        for (int k = 0; k < 50; ++k) {
            auto nodes = reference_nodes(kind);
            for (auto& p : nodes) p += Vec2{{shift(random), shift(random)}};
            const Vec2 xi{{share(random), share(random)}};
            bool good = false;
            const Vec2 found = reference_point(kind, nodes, evaluate(kind, nodes, xi).position, good);
            CHECK(good);
            CHECK(distance(found, xi) < 1e-9);
        }
}

TEST_CASE("shape measures of known figures") {
    const std::array<Vec2, 3> equilateral{{{{0, 0}}, {{1, 0}}, {{0.5, std::sqrt(3) / 2}}}},
        right{{{{0, 0}}, {{1, 0}}, {{0, 1}}}};
    CHECK(mean_ratio(equilateral) == doctest::Approx(1));
    CHECK(scaled_jacobian(equilateral) == doctest::Approx(1));
    CHECK(measure_shape(equilateral).skewness == doctest::Approx(0).scale(1));
    const ShapeMeasures m = measure_shape(right);
    CHECK(m.smallest_angle == doctest::Approx(45));
    CHECK(m.largest_angle == doctest::Approx(90));
    CHECK(m.edge_ratio == doctest::Approx(std::sqrt(2)));
    CHECK(m.skewness == doctest::Approx(0.25));
    // Of a quadrilateral the widest angle may count: 180 degrees less twice that of 2 to 3.
    const std::array<Vec2, 4> dart{{{{0, 0}}, {{1, 0}}, {{0.6, 0.6}}, {{0, 1}}}};
    const double widest = 90 + 2 * std::atan(2.0 / 3) * 180 / std::numbers::pi;
    CHECK(measure_shape(dart).largest_angle == doctest::Approx(widest));
    CHECK(measure_shape(dart).skewness == doctest::Approx((widest - 90) / 90));
    const std::array<Vec2, 4> square{{{{0, 0}}, {{2, 0}}, {{2, 2}}, {{0, 2}}}},
        rhombus{{{{0, 0}}, {{1, 0}}, {{1.5, std::sqrt(3) / 2}}, {{0.5, std::sqrt(3) / 2}}}},
        trapezium{{{{0, 0}}, {{4, 0}}, {{3, 1}}, {{1, 1}}}}, arrow{{{{0, 0}}, {{2, 0}}, {{0.2, 0.2}}, {{0, 2}}}};
    CHECK(mean_ratio(square) == doctest::Approx(1));
    CHECK(scaled_jacobian(rhombus) == doctest::Approx(std::sqrt(3) / 2));
    CHECK(measure_shape(trapezium).taper == doctest::Approx(90));
    CHECK(measure_shape(trapezium).largest_angle == doctest::Approx(135));
    CHECK(scaled_jacobian(arrow) < 0);
    CHECK(mean_ratio(arrow) < 0);
    CHECK(measure_shape(arrow).largest_angle > 180);
    const std::array<Vec2, 4> flat{{{{0, 0}}, {{1, 0}}, {{1, 1e-3}}, {{0, 1e-3}}}};
    CHECK(scaled_jacobian(flat) == doctest::Approx(1));
    CHECK(soundness(flat) < 0.01);
}

TEST_SUITE_END();
