#include "mesh/element.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

void shape_values(ElementKind, const Vec2& p, std::span<double> n) {
    const double a = 1 - p[0] - p[1], b = p[0], c = p[1];
    n[0] = a * (2 * a - 1);
    n[1] = b * (2 * b - 1);
    n[2] = c * (2 * c - 1);
    n[3] = 4 * a * b;
    n[4] = 4 * b * c;
    n[5] = 4 * c * a;
}

void shape_derivatives(ElementKind, const Vec2& p, std::span<Vec2> dn) {
    const double a = 1 - p[0] - p[1], b = p[0], c = p[1];
    dn[0] = {{1 - 4 * a, 1 - 4 * a}};
    dn[1] = {{4 * b - 1, 0}};
    dn[2] = {{0, 4 * c - 1}};
    dn[3] = {{4 * (a - b), -4 * b}};
    dn[4] = {{4 * c, 4 * b}};
    dn[5] = {{-4 * c, 4 * (a - c)}};
}

std::span<const QuadraturePoint> triangle_rule(int degree) {
    constexpr double third = 1.0 / 6;
    static constexpr std::array<QuadraturePoint, 3> two{
        {{{{third, third}}, third}, {{{4 * third, third}}, third}, {{{third, 4 * third}}, third}}};
    static const auto make = [](auto orbits3, auto orbits6, auto& out) {
        std::size_t k = 0;
        for (const auto& [a, w] : orbits3)
            for (const Vec2& p : {Vec2{{a, a}}, Vec2{{1 - 2 * a, a}}, Vec2{{a, 1 - 2 * a}}}) out[k++] = {p, w / 2};
        for (const auto& [a, b, w] : orbits6) {
            const double c = 1 - a - b;
            for (const Vec2& p : {Vec2{{a, b}}, Vec2{{b, a}}, Vec2{{a, c}}, Vec2{{c, a}}, Vec2{{b, c}}, Vec2{{c, b}}})
                out[k++] = {p, w / 2};
        }
    };
    struct Three {
        double a, w;
    };
    struct Six {
        double a, b, w;
    };
    static const auto four = [] {
        std::array<QuadraturePoint, 6> out{};
        make(std::array<Three, 2>{{{0.445948490915965, 0.223381589678011}, {0.091576213509771, 0.109951743655322}}},
             std::array<Six, 0>{}, out);
        return out;
    }();
    static const auto six = [] {
        std::array<QuadraturePoint, 12> out{};
        make(std::array<Three, 2>{{{0.249286745170910, 0.116786275726379}, {0.063089014491502, 0.050844906370207}}},
             std::array<Six, 1>{{{0.053145049844817, 0.310352451033784, 0.082851075618374}}}, out);
        return out;
    }();
    if (degree <= 2) return two;
    if (degree <= 4) return four;
    return six;
}

std::span<const LinePoint> line_rule() {
    static constexpr double x1 = 0.5384693101056831, x2 = 0.9061798459386640;
    static constexpr double w0 = 0.5688888888888889, w1 = 0.4786286704993665, w2 = 0.2369268850561891;
    static constexpr std::array<LinePoint, 5> rule{{{(1 - x2) / 2, w2 / 2},
                                                    {(1 - x1) / 2, w1 / 2},
                                                    {0.5, w0 / 2},
                                                    {(1 + x1) / 2, w1 / 2},
                                                    {(1 + x2) / 2, w2 / 2}}};
    return rule;
}

ElementPoint evaluate(ElementKind kind, std::span<const Vec2> nodes, const Vec2& xi) {
    ElementPoint p;
    std::array<Vec2, most_element_nodes> local{};
    shape_values(kind, xi, p.n);
    shape_derivatives(kind, xi, local);
    double xa = 0, xb = 0, ya = 0, yb = 0;
    const auto count = static_cast<std::size_t>(node_count(kind));
    for (std::size_t i = 0; i < count; ++i) {
        p.position += nodes[i] * p.n[i];
        xa += nodes[i][0] * local[i][0];
        xb += nodes[i][0] * local[i][1];
        ya += nodes[i][1] * local[i][0];
        yb += nodes[i][1] * local[i][1];
    }
    p.jacobian = xa * yb - xb * ya;
    const double inverse = 1 / p.jacobian;
    for (std::size_t i = 0; i < count; ++i)
        p.dn[i] = {{(yb * local[i][0] - ya * local[i][1]) * inverse, (xa * local[i][1] - xb * local[i][0]) * inverse}};
    return p;
}

Vec2 reference_point(ElementKind kind, std::span<const Vec2> nodes, const Vec2& position, bool& converged) {
    Vec2 xi{{1.0 / 3, 1.0 / 3}};
    converged = false;
    for (int step = 0; step < 30; ++step) {
        std::array<double, most_element_nodes> n{};
        std::array<Vec2, most_element_nodes> dn{};
        shape_values(kind, xi, n);
        shape_derivatives(kind, xi, dn);
        Vec2 x, xa, xb;
        for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) {
            x += nodes[i] * n[i];
            xa += nodes[i] * dn[i][0];
            xb += nodes[i] * dn[i][1];
        }
        const Vec2 gap = position - x;
        const double det = cross(xa, xb);
        if (det == 0) return xi;
        const Vec2 move{{cross(gap, xb) / det, cross(xa, gap) / det}};
        xi += move;
        if (norm(move) < 1e-13) {
            converged = true;
            return xi;
        }
        if (norm(xi) > 1e3) return xi;
    }
    converged = true;  // it circles within rounding of the solution
    return xi;
}

double jacobian_bound(ElementKind kind, std::span<const Vec2> nodes) {
    // For six-node triangles the determinant is a quadratic in xi and eta: its values at the six nodes give its
    // Bernstein coefficients.
    static constexpr std::array<Vec2, 6> at{{{{0, 0}}, {{1, 0}}, {{0, 1}}, {{0.5, 0}}, {{0.5, 0.5}}, {{0, 0.5}}}};
    std::array<double, 6> j{};
    for (std::size_t k = 0; k < 6; ++k) {
        std::array<Vec2, most_element_nodes> dn{};
        shape_derivatives(kind, at[k], dn);
        Vec2 xa, xb;
        for (std::size_t i = 0; i < 6; ++i) {
            xa += nodes[i] * dn[i][0];
            xb += nodes[i] * dn[i][1];
        }
        j[k] = cross(xa, xb);
    }
    double least = std::min({j[0], j[1], j[2]}), sum = j[0] + j[1] + j[2];
    for (std::size_t s = 0; s < 3; ++s) {
        const double b = 2 * j[s + 3] - (j[s] + j[(s + 1) % 3]) / 2;
        least = std::min(least, b);
        sum += b;
    }
    return sum > 0 ? least / (sum / 6) : -1;
}

}  // namespace dotsift
