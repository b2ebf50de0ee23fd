#include "mesh/elements/quadrature.hpp"

#include <algorithm>
#include <vector>

namespace dotsift {

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

std::span<const LinePoint> line_rule() {
    return line_rule(9);
}

std::span<const LinePoint> line_rule(int degree) {
    static constexpr double x2 = 0.5773502691896257, x3 = 0.7745966692414834;
    static constexpr double x4 = 0.8611363115940526, y4 = 0.3399810435848563, v4 = 0.3478548451374538,
                            w4 = 0.6521451548625461;
    static constexpr double x5 = 0.5384693101056831, y5 = 0.9061798459386640;
    static constexpr double u5 = 0.5688888888888889, v5 = 0.4786286704993665, w5 = 0.2369268850561891;
    static constexpr std::array<LinePoint, 1> one{{{0.5, 1}}};
    static constexpr std::array<LinePoint, 2> two{{{(1 - x2) / 2, 0.5}, {(1 + x2) / 2, 0.5}}};
    static constexpr std::array<LinePoint, 3> three{
        {{(1 - x3) / 2, 5.0 / 18}, {0.5, 8.0 / 18}, {(1 + x3) / 2, 5.0 / 18}}};
    static constexpr std::array<LinePoint, 4> four{
        {{(1 - x4) / 2, v4 / 2}, {(1 - y4) / 2, w4 / 2}, {(1 + y4) / 2, w4 / 2}, {(1 + x4) / 2, v4 / 2}}};
    static constexpr std::array<LinePoint, 5> five{{{(1 - y5) / 2, w5 / 2},
                                                    {(1 - x5) / 2, v5 / 2},
                                                    {0.5, u5 / 2},
                                                    {(1 + x5) / 2, v5 / 2},
                                                    {(1 + y5) / 2, w5 / 2}}};
    if (degree <= 1) return one;
    if (degree <= 3) return two;
    if (degree <= 5) return three;
    if (degree <= 7) return four;
    return five;
}

namespace {

using Rule2 = std::vector<QuadraturePoint>;
using Rule3 = std::vector<QuadraturePointIn<3>>;

constexpr int highest_degree = 7;

Rule2 square_rule(int degree) {
    Rule2 out;
    for (const auto& y : line_rule(degree))
        for (const auto& x : line_rule(degree)) out.push_back({{{x.t, y.t}}, x.weight * y.weight});
    return out;
}

Rule3 tetrahedron_rule(int degree) {
    Rule3 out;
    // Points of a share a of three corners; of a of two and b of the others; of a of two, b and c of the others.
    const auto add = [&](std::array<double, 4> shares, double weight) {
        std::sort(shares.begin(), shares.end());
        do out.push_back({{{shares[1], shares[2], shares[3]}}, weight / 6});
        while (std::next_permutation(shares.begin(), shares.end()));
    };
    if (degree <= 1) {
        add({0.25, 0.25, 0.25, 0.25}, 1);
    } else if (degree <= 2) {
        constexpr double a = 0.1381966011250105;
        add({a, a, a, 1 - 3 * a}, 0.25);
    } else if (degree <= 5) {
        constexpr double a = 0.31088591926330060980, b = 0.09273525031089122640, c = 0.04550370412564964949;
        add({a, a, a, 1 - 3 * a}, 0.11268792571801585080);
        add({b, b, b, 1 - 3 * b}, 0.07349304311636194954);
        add({c, c, 0.5 - c, 0.5 - c}, 0.04254602077708146644);
    } else {
        constexpr double a = 0.21460287125915202929, b = 0.04067395853461135311, c = 0.32233789014227551034;
        constexpr double d = 0.06366100187501752530, e = 0.26967233145831580803;
        add({a, a, a, 1 - 3 * a}, 6 * 0.00665379170969458201);
        add({b, b, b, 1 - 3 * b}, 6 * 0.00167953517588677382);
        add({c, c, c, 1 - 3 * c}, 6 * 0.00922619692394239843);
        add({d, d, e, 1 - 2 * d - e}, 6 * 0.00803571428571428248);
    }
    return out;
}

Rule3 solid_rule(ElementKind kind, int degree) {
    Rule3 out;
    switch (corner_count(kind)) {
        case 4:
            return tetrahedron_rule(degree);
        case 5:  // what collapsing brings into the integral raises the degree along the axis by two
            for (const auto& z : line_rule(degree + 2))
                for (const auto& q : square_rule(degree)) {
                    const double r = 1 - z.t;
                    out.push_back({{{q.xi[0] * r, q.xi[1] * r, z.t}}, q.weight * z.weight * r * r});
                }
            return out;
        case 6:
            for (const auto& z : line_rule(degree))
                for (const auto& q : triangle_rule(degree))
                    out.push_back({{{q.xi[0], q.xi[1], z.t}}, q.weight * z.weight});
            return out;
        default:
            for (const auto& z : line_rule(degree))
                for (const auto& q : square_rule(degree))
                    out.push_back({{{q.xi[0], q.xi[1], z.t}}, q.weight * z.weight});
            return out;
    }
}

/// By shape and degree.
template <class Rule, class Make>
std::vector<Rule> rules(const Make& make) {
    std::vector<Rule> out;
    for (std::size_t shape = 0; shape < element_kind_count / 2; ++shape)
        for (int degree = 0; degree <= highest_degree; ++degree)
            out.push_back(make(static_cast<ElementKind>(2 * shape), degree));
    return out;
}
std::size_t rule_number(ElementKind kind, int degree) {
    return static_cast<std::size_t>(kind) / 2 * (highest_degree + 1) +
           static_cast<std::size_t>(std::clamp(degree, 0, highest_degree));
}

}  // namespace

template <int D>
std::span<const QuadraturePointIn<D>> quadrature(ElementKind kind, int degree) {
    if constexpr (D == 2) {
        if (corner_count(kind) == 3) return triangle_rule(degree);
        static const auto all = rules<Rule2>(
            [](ElementKind k, int d) { return k == ElementKind::quadrilateral4 ? square_rule(d) : Rule2{}; });
        return all[rule_number(kind, degree)];
    } else {
        static const auto all =
            rules<Rule3>([](ElementKind k, int d) { return dimension_of(k) == 3 ? solid_rule(k, d) : Rule3{}; });
        return all[rule_number(kind, degree)];
    }
}
template std::span<const QuadraturePointIn<2>> quadrature<2>(ElementKind, int);
template std::span<const QuadraturePointIn<3>> quadrature<3>(ElementKind, int);

template <int D>
std::span<const QuadraturePointIn<D>> stiffness_rule(ElementKind kind, bool straight) {
    const bool linear = polynomial_degree(kind) == 1;
    const int corners = corner_count(kind);
    if (corners == D + 1) return quadrature<D>(kind, linear ? 1 : straight ? 2 : 4);
    if (D == 3 && corners < 8) return quadrature<D>(kind, linear ? 2 : 4);
    return quadrature<D>(kind, linear ? 3 : 5);
}
template std::span<const QuadraturePointIn<2>> stiffness_rule<2>(ElementKind, bool);
template std::span<const QuadraturePointIn<3>> stiffness_rule<3>(ElementKind, bool);

template <int D>
std::span<const QuadraturePointIn<D>> sampling_rule(ElementKind kind) {
    const int degree = polynomial_degree(kind), corners = corner_count(kind);
    const bool product = D == 2 ? corners == 4 : corners == 8;
    return quadrature<D>(kind, product ? 2 * degree - 1 : 2 * (degree - 1));
}
template std::span<const QuadraturePointIn<2>> sampling_rule<2>(ElementKind);
template std::span<const QuadraturePointIn<3>> sampling_rule<3>(ElementKind);

template <int D>
ShapePointIn<D> shape_point(ElementKind kind, const Vec<D>& xi, double weight) {
    ShapePointIn<D> p;
    p.xi = xi;
    p.weight = weight;
    shape_values(kind, xi, p.n);
    shape_derivatives(kind, xi, p.dn);
    return p;
}
template ShapePointIn<2> shape_point<2>(ElementKind, const Vec<2>&, double);
template ShapePointIn<3> shape_point<3>(ElementKind, const Vec<3>&, double);

namespace {

template <int D>
struct ShapeTable {
    const QuadraturePointIn<D>* rule;
    std::vector<ShapePointIn<D>> points;
};

/// Of each kind one for each of its rules.
template <int D>
std::array<std::vector<ShapeTable<D>>, element_kind_count> all_tables() {
    std::array<std::vector<ShapeTable<D>>, element_kind_count> out;
    for (std::size_t k = 0; k < element_kind_count; ++k) {
        const auto kind = static_cast<ElementKind>(k);
        if (dimension_of(kind) != D) continue;
        for (int degree = 0; degree <= highest_degree; ++degree) {
            const auto rule = quadrature<D>(kind, degree);
            if (std::any_of(out[k].begin(), out[k].end(), [&](const auto& t) { return t.rule == rule.data(); }))
                continue;
            out[k].push_back({rule.data(), {}});
            for (const auto& q : rule) out[k].back().points.push_back(shape_point<D>(kind, q.xi, q.weight));
        }
    }
    return out;
}

}  // namespace

template <int D>
std::span<const ShapePointIn<D>> tabulated(ElementKind kind, std::span<const QuadraturePointIn<D>> rule) {
    static const auto tables = all_tables<D>();
    for (const auto& t : tables[static_cast<std::size_t>(kind)])
        if (t.rule == rule.data()) return t.points;
    return {};
}
template std::span<const ShapePoint> tabulated<2>(ElementKind, std::span<const QuadraturePoint>);
template std::span<const ShapePointIn<3>> tabulated<3>(ElementKind, std::span<const QuadraturePointIn<3>>);

}  // namespace dotsift
