#include "mesh/element.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace dotsift {

namespace {

/// Quadratic Lagrange polynomials on [0, 1] with nodes 0, 1 and 1/2.
constexpr std::array<double, 3> quadratic(double t) {
    return {(1 - t) * (1 - 2 * t), t * (2 * t - 1), 4 * t * (1 - t)};
}
constexpr std::array<double, 3> quadratic_derivative(double t) {
    return {4 * t - 3, 4 * t - 1, 4 - 8 * t};
}
/// For each node of the nine-node element the polynomials in xi and eta that make its shape function.
constexpr std::array<std::array<std::size_t, 2>, 9> nine{
    {{0, 0}, {1, 0}, {1, 1}, {0, 1}, {2, 0}, {1, 2}, {2, 1}, {0, 2}, {2, 2}}};

}  // namespace

double reference_outside(ElementKind kind, const Vec2& xi) {
    if (corner_count(kind) == 3) return std::max({-xi[0], -xi[1], xi[0] + xi[1] - 1});
    return std::max({-xi[0], -xi[1], xi[0] - 1, xi[1] - 1});
}

std::span<const std::array<Vec2, 3>> reference_triangles(ElementKind kind) {
    static constexpr std::array<std::array<Vec2, 3>, 1> one{{{{{{0, 0}}, {{1, 0}}, {{0, 1}}}}}};
    static constexpr std::array<std::array<Vec2, 3>, 2> two{
        {{{{{0, 0}}, {{1, 0}}, {{1, 1}}}}, {{{{0, 0}}, {{1, 1}}, {{0, 1}}}}}};
    if (corner_count(kind) == 3) return one;
    return two;
}

void shape_values(ElementKind kind, const Vec2& p, std::span<double> n) {
    switch (kind) {
        case ElementKind::triangle3:
            n[0] = 1 - p[0] - p[1];
            n[1] = p[0];
            n[2] = p[1];
            return;
        case ElementKind::triangle6: {
            const double a = 1 - p[0] - p[1], b = p[0], c = p[1];
            n[0] = a * (2 * a - 1);
            n[1] = b * (2 * b - 1);
            n[2] = c * (2 * c - 1);
            n[3] = 4 * a * b;
            n[4] = 4 * b * c;
            n[5] = 4 * c * a;
            return;
        }
        case ElementKind::quadrilateral4:
            n[0] = (1 - p[0]) * (1 - p[1]);
            n[1] = p[0] * (1 - p[1]);
            n[2] = p[0] * p[1];
            n[3] = (1 - p[0]) * p[1];
            return;
        case ElementKind::quadrilateral9: {
            const auto x = quadratic(p[0]), y = quadratic(p[1]);
            for (std::size_t i = 0; i < 9; ++i) n[i] = x[nine[i][0]] * y[nine[i][1]];
            return;
        }
    }
}

void shape_derivatives(ElementKind kind, const Vec2& p, std::span<Vec2> dn) {
    switch (kind) {
        case ElementKind::triangle3:
            dn[0] = {{-1, -1}};
            dn[1] = {{1, 0}};
            dn[2] = {{0, 1}};
            return;
        case ElementKind::triangle6: {
            const double a = 1 - p[0] - p[1], b = p[0], c = p[1];
            dn[0] = {{1 - 4 * a, 1 - 4 * a}};
            dn[1] = {{4 * b - 1, 0}};
            dn[2] = {{0, 4 * c - 1}};
            dn[3] = {{4 * (a - b), -4 * b}};
            dn[4] = {{4 * c, 4 * b}};
            dn[5] = {{-4 * c, 4 * (a - c)}};
            return;
        }
        case ElementKind::quadrilateral4:
            dn[0] = {{p[1] - 1, p[0] - 1}};
            dn[1] = {{1 - p[1], -p[0]}};
            dn[2] = {{p[1], p[0]}};
            dn[3] = {{-p[1], 1 - p[0]}};
            return;
        case ElementKind::quadrilateral9: {
            const auto x = quadratic(p[0]), y = quadratic(p[1]), dx = quadratic_derivative(p[0]),
                       dy = quadratic_derivative(p[1]);
            for (std::size_t i = 0; i < 9; ++i)
                dn[i] = {{dx[nine[i][0]] * y[nine[i][1]], x[nine[i][0]] * dy[nine[i][1]]}};
            return;
        }
    }
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
    static constexpr std::array<QuadraturePoint, 1> one{{{{{1.0 / 3, 1.0 / 3}}, 0.5}}};
    if (degree <= 1) return one;
    if (degree <= 2) return two;
    if (degree <= 4) return four;
    return six;
}

namespace {

template <std::size_t N>
std::array<QuadraturePoint, N * N> product(const std::array<LinePoint, N>& line) {
    std::array<QuadraturePoint, N * N> out{};
    for (std::size_t j = 0; j < N; ++j)
        for (std::size_t i = 0; i < N; ++i)
            out[j * N + i] = {{{line[i].t, line[j].t}}, line[i].weight * line[j].weight};
    return out;
}

std::span<const QuadraturePoint> square_rule(int degree) {
    static constexpr double x2 = 0.5773502691896257, x3 = 0.7745966692414834;
    static constexpr double x4 = 0.8611363115940526, y4 = 0.3399810435848563, v4 = 0.3478548451374538,
                            w4 = 0.6521451548625461;
    static const auto one = product<1>({{{0.5, 1}}});
    static const auto two = product<2>({{{(1 - x2) / 2, 0.5}, {(1 + x2) / 2, 0.5}}});
    static const auto three = product<3>({{{(1 - x3) / 2, 5.0 / 18}, {0.5, 8.0 / 18}, {(1 + x3) / 2, 5.0 / 18}}});
    static const auto four =
        product<4>({{{(1 - x4) / 2, v4 / 2}, {(1 - y4) / 2, w4 / 2}, {(1 + y4) / 2, w4 / 2}, {(1 + x4) / 2, v4 / 2}}});
    if (degree <= 1) return one;
    if (degree <= 3) return two;
    if (degree <= 5) return three;
    return four;
}

}  // namespace

std::span<const QuadraturePoint> quadrature(ElementKind kind, int degree) {
    return corner_count(kind) == 3 ? triangle_rule(degree) : square_rule(degree);
}

std::span<const QuadraturePoint> stiffness_rule(ElementKind kind, bool straight) {
    switch (kind) {
        case ElementKind::triangle3:
            return triangle_rule(1);
        case ElementKind::triangle6:
            return triangle_rule(straight ? 2 : 4);
        case ElementKind::quadrilateral4:
            return square_rule(3);
        case ElementKind::quadrilateral9:
            return square_rule(5);
    }
    return {};
}

std::span<const QuadraturePoint> sampling_rule(ElementKind kind) {
    const int degree = polynomial_degree(kind);
    return corner_count(kind) == 3 ? triangle_rule(2 * (degree - 1)) : square_rule(2 * degree - 1);
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

ShapePoint shape_point(ElementKind kind, const Vec2& xi, double weight) {
    ShapePoint p;
    p.xi = xi;
    p.weight = weight;
    shape_values(kind, xi, p.n);
    shape_derivatives(kind, xi, p.dn);
    return p;
}

namespace {

struct ShapeTable {
    ElementKind kind;
    const QuadraturePoint* rule;
    std::vector<ShapePoint> points;
};

std::vector<ShapeTable> all_tables() {
    std::vector<ShapeTable> tables;
    for (const auto kind :
         {ElementKind::triangle3, ElementKind::triangle6, ElementKind::quadrilateral4, ElementKind::quadrilateral9})
        for (int degree = 0; degree <= 7; ++degree) {
            if (corner_count(kind) == 3 && degree > 6) continue;
            const auto rule = quadrature(kind, degree);
            const bool known = std::any_of(tables.begin(), tables.end(),
                                           [&](const auto& t) { return t.kind == kind && t.rule == rule.data(); });
            if (known) continue;
            tables.push_back({kind, rule.data(), {}});
            for (const auto& q : rule) tables.back().points.push_back(shape_point(kind, q.xi, q.weight));
        }
    return tables;
}

}  // namespace

std::span<const ShapePoint> tabulated(ElementKind kind, std::span<const QuadraturePoint> rule) {
    static const std::vector<ShapeTable> tables = all_tables();
    for (const auto& t : tables)
        if (t.rule == rule.data() && t.kind == kind) return t.points;
    return {};
}

ElementPoint evaluate(ElementKind kind, std::span<const Vec2> nodes, const ShapePoint& at) {
    ElementPoint p;
    p.n = at.n;
    double xa = 0, xb = 0, ya = 0, yb = 0;
    const auto count = static_cast<std::size_t>(node_count(kind));
    for (std::size_t i = 0; i < count; ++i) {
        p.position += nodes[i] * at.n[i];
        xa += nodes[i][0] * at.dn[i][0];
        xb += nodes[i][0] * at.dn[i][1];
        ya += nodes[i][1] * at.dn[i][0];
        yb += nodes[i][1] * at.dn[i][1];
    }
    p.jacobian = xa * yb - xb * ya;
    const double inverse = 1 / p.jacobian;
    for (std::size_t i = 0; i < count; ++i)
        p.dn[i] = {{(yb * at.dn[i][0] - ya * at.dn[i][1]) * inverse, (xa * at.dn[i][1] - xb * at.dn[i][0]) * inverse}};
    return p;
}

ElementPoint evaluate(ElementKind kind, std::span<const Vec2> nodes, const Vec2& xi) {
    return evaluate(kind, nodes, shape_point(kind, xi, 0));
}

bool is_straight(ElementKind kind, std::span<const Vec2> p) {
    if (polynomial_degree(kind) == 1) return true;
    const auto corners = static_cast<std::size_t>(corner_count(kind));
    for (std::size_t s = 0; s < corners; ++s)
        if (!(p[s + corners] == (p[s] + p[(s + 1) % corners]) * 0.5)) return false;
    return corners == 3 || p[8] == (p[0] + p[1] + p[2] + p[3]) * 0.25;
}

Vec2 reference_point(ElementKind kind, std::span<const Vec2> nodes, const Vec2& position, bool& converged) {
    Vec2 xi = reference_middle(kind);
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

namespace {

double jacobian_at(ElementKind kind, std::span<const Vec2> nodes, const Vec2& xi) {
    std::array<Vec2, most_element_nodes> dn{};
    shape_derivatives(kind, xi, dn);
    Vec2 xa, xb;
    for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) {
        xa += nodes[i] * dn[i][0];
        xb += nodes[i] * dn[i][1];
    }
    return cross(xa, xb);
}

/// Bernstein coefficients of the polynomial of degree 3 that has these values at 0, 1/3, 2/3 and 1.
constexpr std::array<double, 4> cubic_coefficients(const std::array<double, 4>& v) {
    return {v[0], (-5 * v[0] + 18 * v[1] - 9 * v[2] + 2 * v[3]) / 6, (2 * v[0] - 9 * v[1] + 18 * v[2] - 5 * v[3]) / 6,
            v[3]};
}

}  // namespace

double jacobian_bound(ElementKind kind, std::span<const Vec2> nodes) {
    double least = 0, mean = 0;
    const auto j = [&](double x, double y) { return jacobian_at(kind, nodes, {{x, y}}); };
    switch (kind) {
        case ElementKind::triangle3:
            least = mean = j(0, 0);
            break;
        case ElementKind::quadrilateral4: {  // linear along each coordinate: extreme at the corners
            const std::array<double, 4> v{j(0, 0), j(1, 0), j(1, 1), j(0, 1)};
            least = *std::min_element(v.begin(), v.end());
            mean = (v[0] + v[1] + v[2] + v[3]) / 4;
            break;
        }
        case ElementKind::triangle6: {
            // A quadratic in xi and eta: its values at the six nodes give its Bernstein coefficients.
            const std::array<double, 6> v{j(0, 0), j(1, 0), j(0, 1), j(0.5, 0), j(0.5, 0.5), j(0, 0.5)};
            least = std::min({v[0], v[1], v[2]});
            double sum = v[0] + v[1] + v[2];
            for (std::size_t s = 0; s < 3; ++s) {
                const double b = 2 * v[s + 3] - (v[s] + v[(s + 1) % 3]) / 2;
                least = std::min(least, b);
                sum += b;
            }
            mean = sum / 6;
            break;
        }
        case ElementKind::quadrilateral9: {
            // Of degree 3 in each coordinate: sixteen values give its coefficients, rows first, then columns.
            std::array<std::array<double, 4>, 4> c{};
            for (std::size_t y = 0; y < 4; ++y) {
                for (std::size_t x = 0; x < 4; ++x) c[y][x] = j(static_cast<double>(x) / 3, static_cast<double>(y) / 3);
                c[y] = cubic_coefficients(c[y]);
            }
            least = c[0][0];
            for (std::size_t x = 0; x < 4; ++x)
                for (const double b : cubic_coefficients({c[0][x], c[1][x], c[2][x], c[3][x]})) {
                    least = std::min(least, b);
                    mean += b / 16;
                }
            break;
        }
    }
    return mean > 0 ? least / mean : -1;
}

}  // namespace dotsift
