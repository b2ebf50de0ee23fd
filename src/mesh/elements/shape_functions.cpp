#include "mesh/elements/shape_functions.hpp"

#include <algorithm>

namespace dotsift {

namespace {

/// Lagrange polynomials on [0, 1] with nodes 0, 1 and, of degree 2, 1/2.
struct Line {
    std::array<double, 3> value{}, slope{};
};

Line line(int degree, double t) {
    if (degree == 1) return {{1 - t, t, 0}, {-1, 1, 0}};
    return {{(1 - t) * (1 - 2 * t), t * (2 * t - 1), 4 * t * (1 - t)}, {4 * t - 3, 4 * t - 1, 4 - 8 * t}};
}

/// For each node of the square or cube its place along each axis: 0, 1 or, halfway between, 2.
template <int D>
using Places = std::array<std::array<std::uint8_t, D>, most_nodes<D>>;

template <int D>
Places<D> places_of(ElementKind kind) {
    constexpr std::array<std::array<std::uint8_t, 3>, 8> corner{
        {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}, {0, 0, 1}, {1, 0, 1}, {1, 1, 1}, {0, 1, 1}}};
    Places<D> out{};
    for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) {
        const auto& corners = corners_of_node(kind, i);
        for (std::size_t a = 0; a < static_cast<std::size_t>(D); ++a) {
            out[i][a] = corner[corners[0]][a];
            for (const auto c : corners)
                if (corner[c][a] != out[i][a]) out[i][a] = 2;
        }
    }
    return out;
}
const Places<2> in_square = places_of<2>(ElementKind::quadrilateral9);
const Places<3> in_cube = places_of<3>(ElementKind::hexahedron27);

template <int D>
const Places<D>& places() {
    if constexpr (D == 2)
        return in_square;
    else
        return in_cube;
}

/// Of the square or cube.
template <int D>
void product_values(int degree, std::size_t nodes, const Vec<D>& p, std::span<double> n) {
    std::array<Line, D> axis{};
    for (std::size_t a = 0; a < axis.size(); ++a) axis[a] = line(degree, p[a]);
    for (std::size_t i = 0; i < nodes; ++i) {
        const auto& at = places<D>()[i];
        n[i] = axis[0].value[at[0]] * axis[1].value[at[1]];
        if constexpr (D == 3) n[i] *= axis[2].value[at[2]];
    }
}
template <int D>
void product_derivatives(int degree, std::size_t nodes, const Vec<D>& p, std::span<Vec<D>> dn) {
    std::array<Line, D> axis{};
    for (std::size_t a = 0; a < axis.size(); ++a) axis[a] = line(degree, p[a]);
    for (std::size_t i = 0; i < nodes; ++i) {
        const auto& at = places<D>()[i];
        for (std::size_t along = 0; along < axis.size(); ++along) {
            double d = along == 0 ? axis[0].slope[at[0]] : axis[0].value[at[0]];
            for (std::size_t a = 1; a < axis.size(); ++a) d *= (along == a ? axis[a].slope : axis[a].value)[at[a]];
            dn[i][along] = d;
        }
    }
}

/// The share of a corner of a triangle or tetrahedron, and its slope along an axis.
template <int D>
std::array<double, D + 1> shares(const Vec<D>& p) {
    std::array<double, D + 1> b{};
    b[0] = 1 - p[0];
    for (std::size_t a = 1; a < p.size(); ++a) b[0] -= p[a];
    for (std::size_t a = 0; a < p.size(); ++a) b[a + 1] = p[a];
    return b;
}
constexpr double share_slope(std::size_t corner, std::size_t axis) {
    return corner == 0 ? -1 : corner == axis + 1 ? 1 : 0;
}

// Triangles are asked most often: written out.
void triangle_values(bool linear, const Vec2& p, std::span<double> n) {
    const double a = 1 - p[0] - p[1], b = p[0], c = p[1];
    if (linear) {
        n[0] = a;
        n[1] = b;
        n[2] = c;
        return;
    }
    n[0] = a * (2 * a - 1);
    n[1] = b * (2 * b - 1);
    n[2] = c * (2 * c - 1);
    n[3] = 4 * a * b;
    n[4] = 4 * b * c;
    n[5] = 4 * c * a;
}
void triangle_derivatives(bool linear, const Vec2& p, std::span<Vec2> dn) {
    if (linear) {
        dn[0] = {{-1, -1}};
        dn[1] = {{1, 0}};
        dn[2] = {{0, 1}};
        return;
    }
    const double a = 1 - p[0] - p[1], b = p[0], c = p[1];
    dn[0] = {{1 - 4 * a, 1 - 4 * a}};
    dn[1] = {{4 * b - 1, 0}};
    dn[2] = {{0, 4 * c - 1}};
    dn[3] = {{4 * (a - b), -4 * b}};
    dn[4] = {{4 * c, 4 * b}};
    dn[5] = {{-4 * c, 4 * (a - c)}};
}

template <int D>
void simplex_values(ElementKind kind, const Vec<D>& p, std::span<double> n) {
    if constexpr (D == 2) return triangle_values(polynomial_degree(kind) == 1, p, n);
    const auto b = shares(p);
    if (polynomial_degree(kind) == 1) {
        std::copy(b.begin(), b.end(), n.begin());
        return;
    }
    for (std::size_t i = 0; i < b.size(); ++i) n[i] = b[i] * (2 * b[i] - 1);
    const auto& table = table_of(kind);
    for (std::size_t e = 0; e < table.edges; ++e) n[b.size() + e] = 4 * b[table.edge[e][0]] * b[table.edge[e][1]];
}
template <int D>
void simplex_derivatives(ElementKind kind, const Vec<D>& p, std::span<Vec<D>> dn) {
    const bool linear = polynomial_degree(kind) == 1;
    if constexpr (D == 2) return triangle_derivatives(linear, p, dn);
    const auto b = shares(p);
    for (std::size_t a = 0; a < p.size(); ++a) {
        for (std::size_t i = 0; i < b.size(); ++i) dn[i][a] = (linear ? 1 : 4 * b[i] - 1) * share_slope(i, a);
        if (linear) continue;
        const auto& table = table_of(kind);
        for (std::size_t e = 0; e < table.edges; ++e) {
            const std::size_t i = table.edge[e][0], j = table.edge[e][1];
            dn[b.size() + e][a] = 4 * (b[i] * share_slope(j, a) + b[j] * share_slope(i, a));
        }
    }
}

/// The node of the triangle, and of the line along the axis, that make a wedge's node.
struct WedgePlace {
    std::size_t across, along;
};
WedgePlace in_wedge(std::size_t node) {
    if (node < 6) return {node % 3, node / 3};
    if (node < 12) return {3 + node % 3, (node - 6) / 3};
    return {node < 15 ? node % 3 : 3 + node % 3, 2};
}

/// A pyramid's functions are sums of products of a power of r and a function of u and v.
struct Collapsed {
    double u = 0.5, v = 0.5, r = 0;
    explicit Collapsed(const Vec3& p) : r(1 - p[2]) {
        if (r == 0) return;  // the tip: along the axis
        u = p[0] / r;
        v = p[1] / r;
    }
};

template <class Put>
void pyramid_terms(ElementKind kind, const Collapsed& at, const Put& put) {
    // put(node, f, f / r, df / dr, function of u and v of this degree and number)
    const double r = at.r;
    if (kind == ElementKind::pyramid5) {
        for (std::size_t c = 0; c < 4; ++c) put(c, r, 1.0, 1.0, 1, c);
        put(4, 1 - r, 0.0, -1.0, 0, 0);
        return;
    }
    for (std::size_t k = 0; k < 9; ++k) put(k < 4 ? k : k < 8 ? k + 1 : 13, r * r, r, 2 * r, 2, k);
    for (std::size_t c = 0; c < 4; ++c) {
        put(c, -r * (1 - r), r - 1, 2 * r - 1, 1, c);
        put(9 + c, 4 * r * (1 - r), 4 * (1 - r), 4 - 8 * r, 1, c);
    }
    put(4, (1 - r) * (1 - 2 * r), 0.0, 4 * r - 3, 0, 0);
}

void pyramid_values(ElementKind kind, const Vec3& p, std::span<double> n) {
    const Collapsed at(p);
    std::array<std::array<double, 9>, 3> flat{{{1}, {}, {}}};
    product_values<2>(1, 4, {{at.u, at.v}}, flat[1]);
    product_values<2>(2, 9, {{at.u, at.v}}, flat[2]);
    std::fill_n(n.begin(), node_count(kind), 0.0);
    pyramid_terms(kind, at, [&](std::size_t i, double f, double, double, std::size_t degree, std::size_t k) {
        n[i] += f * flat[degree][k];
    });
}

void pyramid_derivatives(ElementKind kind, const Vec3& p, std::span<Vec3> dn) {
    const Collapsed at(p);
    std::array<std::array<double, 9>, 3> flat{{{1}, {}, {}}};
    std::array<std::array<Vec2, 9>, 3> slope{};
    const Vec2 uv{{at.u, at.v}};
    product_values<2>(1, 4, uv, flat[1]);
    product_values<2>(2, 9, uv, flat[2]);
    product_derivatives<2>(1, 4, uv, slope[1]);
    product_derivatives<2>(2, 9, uv, slope[2]);
    std::fill_n(dn.begin(), node_count(kind), Vec3{});
    // Of f(r) g(u, v): u = x / r, v = y / r, r = 1 - z.
    pyramid_terms(kind, at, [&](std::size_t i, double, double over_r, double by_r, std::size_t degree, std::size_t k) {
        const Vec2& g = slope[degree][k];
        dn[i] += Vec3{{over_r * g[0], over_r * g[1], over_r * dot(g, uv) - by_r * flat[degree][k]}};
    });
}

}  // namespace

template <int D>
Vec<D> reference_node(ElementKind kind, std::size_t node) {
    Vec<D> sum;
    const auto& corners = corners_of_node(kind, node);
    for (const auto c : corners) {
        Vec<D> at;
        if (corner_count(kind) == D + 1) {  // a triangle or tetrahedron
            if (c > 0) at[c - 1U] = 1;
        } else if (D == 2 || corner_count(kind) == 8) {
            for (std::size_t a = 0; a < at.size(); ++a) at[a] = places<D>()[c][a];
        } else if (corner_count(kind) == 6) {
            if (c % 3 > 0) at[c % 3 - 1U] = 1;
            at[D - 1] = c < 3 ? 0 : 1;
        } else if (c < 4) {
            for (std::size_t a = 0; a < 2; ++a) at[a] = in_square[c][a];
        } else {
            at[D - 1] = 1;
        }
        sum += at;
    }
    return sum * (1.0 / static_cast<double>(corners.size()));
}
template Vec<2> reference_node<2>(ElementKind, std::size_t);
template Vec3 reference_node<3>(ElementKind, std::size_t);

template <int D>
Vec<D> reference_middle(ElementKind kind) {
    if constexpr (D == 2) {
        return corner_count(kind) == 3 ? Vec2{{1.0 / 3, 1.0 / 3}} : Vec2{{0.5, 0.5}};
    } else {
        switch (corner_count(kind)) {
            case 4:
                return {{0.25, 0.25, 0.25}};
            case 5:
                return {{0.375, 0.375, 0.25}};
            case 6:
                return {{1.0 / 3, 1.0 / 3, 0.5}};
            default:
                return {{0.5, 0.5, 0.5}};
        }
    }
}
template Vec<2> reference_middle<2>(ElementKind);
template Vec<3> reference_middle<3>(ElementKind);

Vec3 reference_on_side(ElementKind kind, int side, const Vec2& at) {
    const ElementKind corners = of_degree(side_kind(kind, side), 1);
    const auto count = static_cast<std::size_t>(node_count(corners));
    std::array<double, most_side_corners> n{};
    shape_values<2>(corners, at, std::span(n).first(count));
    Vec3 xi;
    for (std::size_t c = 0; c < count; ++c) xi += reference_node<3>(kind, side_nodes(kind, side)[c]) * n[c];
    return xi;
}

Vec2 reference_on_side(ElementKind kind, int side, double t) {
    const Vec2 a = reference_corner(kind, side), b = reference_corner(kind, (side + 1) % corner_count(kind));
    return {{a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t}};
}

template <int D>
double reference_outside(ElementKind kind, const Vec<D>& xi) {
    double out = -xi[0];
    for (std::size_t a = 1; a < xi.size(); ++a) out = std::max(out, -xi[a]);
    switch (corner_count(kind)) {
        case D + 1: {
            double sum = xi[0];
            for (std::size_t a = 1; a < xi.size(); ++a) sum += xi[a];
            return std::max(out, sum - 1);
        }
        case 5:
            return std::max({out, xi[0] + xi[D - 1] - 1, xi[1] + xi[D - 1] - 1});
        case 6:
            return std::max({out, xi[0] + xi[1] - 1, xi[D - 1] - 1});
        default:
            for (std::size_t a = 0; a < xi.size(); ++a) out = std::max(out, xi[a] - 1);
            return out;
    }
}
template double reference_outside<2>(ElementKind, const Vec<2>&);
template double reference_outside<3>(ElementKind, const Vec3&);

std::span<const std::array<Vec2, 3>> reference_triangles(ElementKind kind) {
    static constexpr std::array<std::array<Vec2, 3>, 1> one{{{{{{0, 0}}, {{1, 0}}, {{0, 1}}}}}};
    static constexpr std::array<std::array<Vec2, 3>, 2> two{
        {{{{{0, 0}}, {{1, 0}}, {{1, 1}}}}, {{{{0, 0}}, {{1, 1}}, {{0, 1}}}}}};
    if (corner_count(kind) == 3) return one;
    return two;
}

template <int D>
void shape_values(ElementKind kind, const Vec<D>& p, std::span<double> n) {
    const int corners = corner_count(kind), degree = polynomial_degree(kind);
    if (corners == D + 1) return simplex_values(kind, p, n);
    if (D == 2 || corners == 8) return product_values<D>(degree, static_cast<std::size_t>(node_count(kind)), p, n);
    if constexpr (D == 3) {
        if (corners == 5) return pyramid_values(kind, p, n);
        std::array<double, 6> across{};
        simplex_values<2>(of_degree(ElementKind::triangle3, degree), {{p[0], p[1]}}, across);
        const Line along = line(degree, p[2]);
        for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i)
            n[i] = across[in_wedge(i).across] * along.value[in_wedge(i).along];
    }
}
template void shape_values<2>(ElementKind, const Vec<2>&, std::span<double>);
template void shape_values<3>(ElementKind, const Vec3&, std::span<double>);

template <int D>
void shape_derivatives(ElementKind kind, const Vec<D>& p, std::type_identity_t<std::span<Vec<D>>> dn) {
    const int corners = corner_count(kind), degree = polynomial_degree(kind);
    if (corners == D + 1) return simplex_derivatives<D>(kind, p, dn);
    if (D == 2 || corners == 8)
        return product_derivatives<D>(degree, static_cast<std::size_t>(node_count(kind)), p, dn);
    if constexpr (D == 3) {
        if (corners == 5) return pyramid_derivatives(kind, p, dn);
        const ElementKind triangle = of_degree(ElementKind::triangle3, degree);
        std::array<double, 6> across{};
        std::array<Vec2, 6> slope{};
        simplex_values<2>(triangle, {{p[0], p[1]}}, across);
        simplex_derivatives<2>(triangle, {{p[0], p[1]}}, slope);
        const Line along = line(degree, p[2]);
        for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) {
            const auto [a, z] = in_wedge(i);
            dn[i] = {{slope[a][0] * along.value[z], slope[a][1] * along.value[z], across[a] * along.slope[z]}};
        }
    }
}
template void shape_derivatives<2>(ElementKind, const Vec<2>&, std::span<Vec<2>>);
template void shape_derivatives<3>(ElementKind, const Vec3&, std::span<Vec3>);

}  // namespace dotsift
