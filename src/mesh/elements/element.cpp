#include "mesh/elements/element.hpp"

#include <cmath>

namespace dotsift {

namespace {

/// How positions change with the reference coordinates, and its inverse times the determinant.
template <int D>
struct Jacobian {
    std::array<Vec<D>, D> along{};     ///< derivative of the position by each reference coordinate
    std::array<Vec<D>, D> cofactor{};  ///< gradient of each reference coordinate, times the determinant
    double determinant = 0;

    void invert() {
        const auto& a = along;
        if constexpr (D == 2) {
            cofactor = {Vec2{{a[1][1], -a[1][0]}}, Vec2{{-a[0][1], a[0][0]}}};
            determinant = cross(a[0], a[1]);
        } else {
            cofactor = {cross(a[1], a[2]), cross(a[2], a[0]), cross(a[0], a[1])};
            determinant = dot(a[0], cofactor[0]);
        }
    }
};

// Written out: this is done for every node of every point of every element, and the compiler keeps loops this short.

/// Adds what a node at x, whose shape function has the derivatives d, brings to the derivatives of the position.
void add_node(std::array<Vec2, 2>& along, const Vec2& x, const Vec2& d) {
    along[0][0] += x[0] * d[0];
    along[0][1] += x[1] * d[0];
    along[1][0] += x[0] * d[1];
    along[1][1] += x[1] * d[1];
}
void add_node(std::array<Vec3, 3>& along, const Vec3& x, const Vec3& d) {
    along[0][0] += x[0] * d[0];
    along[0][1] += x[1] * d[0];
    along[0][2] += x[2] * d[0];
    along[1][0] += x[0] * d[1];
    along[1][1] += x[1] * d[1];
    along[1][2] += x[2] * d[1];
    along[2][0] += x[0] * d[2];
    along[2][1] += x[1] * d[2];
    along[2][2] += x[2] * d[2];
}

/// Derivatives by the place of what has the derivatives d by the reference coordinates.
Vec2 by_place(const std::array<Vec2, 2>& cofactor, const Vec2& d, double inverse) {
    return {{(cofactor[0][0] * d[0] + cofactor[1][0] * d[1]) * inverse,
             (cofactor[0][1] * d[0] + cofactor[1][1] * d[1]) * inverse}};
}
Vec3 by_place(const std::array<Vec3, 3>& cofactor, const Vec3& d, double inverse) {
    return {{(cofactor[0][0] * d[0] + cofactor[1][0] * d[1] + cofactor[2][0] * d[2]) * inverse,
             (cofactor[0][1] * d[0] + cofactor[1][1] * d[1] + cofactor[2][1] * d[2]) * inverse,
             (cofactor[0][2] * d[0] + cofactor[1][2] * d[1] + cofactor[2][2] * d[2]) * inverse}};
}

/// Reference coordinates of a small step in place.
Vec2 step_of(const std::array<Vec2, 2>& cofactor, const Vec2& gap, double determinant) {
    return {{(cofactor[0][0] * gap[0] + cofactor[0][1] * gap[1]) / determinant,
             (cofactor[1][0] * gap[0] + cofactor[1][1] * gap[1]) / determinant}};
}
Vec3 step_of(const std::array<Vec3, 3>& cofactor, const Vec3& gap, double determinant) {
    return {{dot(cofactor[0], gap) / determinant, dot(cofactor[1], gap) / determinant,
             dot(cofactor[2], gap) / determinant}};
}

template <int D>
bool straight(ElementKind kind, std::span<const Vec<D>> p) {
    for (auto i = static_cast<std::size_t>(corner_count(kind)); i < static_cast<std::size_t>(node_count(kind)); ++i) {
        const auto& corners = corners_of_node(kind, i);
        Vec<D> sum;
        for (const auto c : corners) sum += p[c];
        if (!(p[i] == sum * (1.0 / static_cast<double>(corners.size())))) return false;
    }
    return true;
}

}  // namespace

template <int D>
ElementPointIn<D> evaluate(ElementKind kind, std::type_identity_t<std::span<const Vec<D>>> nodes,
                           const ShapePointIn<D>& at) {
    ElementPointIn<D> p;
    p.n = at.n;
    Jacobian<D> j;
    const auto count = static_cast<std::size_t>(node_count(kind));
    for (std::size_t i = 0; i < count; ++i) {
        const Vec<D>& x = nodes[i];
        p.position[0] += x[0] * at.n[i];
        p.position[1] += x[1] * at.n[i];
        if constexpr (D == 3) p.position[2] += x[2] * at.n[i];
        add_node(j.along, x, at.dn[i]);
    }
    j.invert();
    p.jacobian = j.determinant;
    const double inverse = 1 / p.jacobian;
    for (std::size_t i = 0; i < count; ++i) p.dn[i] = by_place(j.cofactor, at.dn[i], inverse);
    return p;
}
template ElementPointIn<2> evaluate<2>(ElementKind, std::span<const Vec2>, const ShapePointIn<2>&);
template ElementPointIn<3> evaluate<3>(ElementKind, std::span<const Vec3>, const ShapePointIn<3>&);

template <int D>
ElementPointIn<D> evaluate(ElementKind kind, std::type_identity_t<std::span<const Vec<D>>> nodes, const Vec<D>& xi) {
    return evaluate<D>(kind, nodes, shape_point<D>(kind, xi, 0));
}
template ElementPointIn<2> evaluate<2>(ElementKind, std::span<const Vec2>, const Vec2&);
template ElementPointIn<3> evaluate<3>(ElementKind, std::span<const Vec3>, const Vec3&);

bool is_straight(ElementKind kind, std::span<const Vec2> nodes) {
    return straight<2>(kind, nodes);
}
bool is_straight(ElementKind kind, std::span<const Vec3> nodes) {
    return straight<3>(kind, nodes);
}

template <int D>
Vec<D> reference_point(ElementKind kind, std::type_identity_t<std::span<const Vec<D>>> nodes, const Vec<D>& position,
                       bool& converged) {
    Vec<D> xi = reference_middle<D>(kind);
    converged = false;
    for (int step = 0; step < 30; ++step) {
        std::array<double, most_nodes<D>> n{};
        std::array<Vec<D>, most_nodes<D>> dn{};
        shape_values<D>(kind, xi, n);
        shape_derivatives<D>(kind, xi, dn);
        Vec<D> x;
        Jacobian<D> j;
        for (std::size_t i = 0; i < static_cast<std::size_t>(node_count(kind)); ++i) {
            x += nodes[i] * n[i];
            add_node(j.along, nodes[i], dn[i]);
        }
        j.invert();
        if (j.determinant == 0) return xi;
        const Vec<D> move = step_of(j.cofactor, position - x, j.determinant);
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
template Vec<2> reference_point<2>(ElementKind, std::span<const Vec2>, const Vec2&, bool&);
template Vec<3> reference_point<3>(ElementKind, std::span<const Vec3>, const Vec3&, bool&);

}  // namespace dotsift
