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
        p.position += nodes[i] * at.n[i];
        for (std::size_t k = 0; k < j.along.size(); ++k) j.along[k] += nodes[i] * at.dn[i][k];
    }
    j.invert();
    p.jacobian = j.determinant;
    const double inverse = 1 / p.jacobian;
    for (std::size_t i = 0; i < count; ++i) {
        Vec<D> g = j.cofactor[0] * at.dn[i][0];
        for (std::size_t k = 1; k < j.cofactor.size(); ++k) g += j.cofactor[k] * at.dn[i][k];
        p.dn[i] = g * inverse;
    }
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
            for (std::size_t k = 0; k < j.along.size(); ++k) j.along[k] += nodes[i] * dn[i][k];
        }
        j.invert();
        if (j.determinant == 0) return xi;
        const Vec<D> gap = position - x;
        Vec<D> move;
        for (std::size_t k = 0; k < move.size(); ++k) move[k] = dot(j.cofactor[k], gap) / j.determinant;
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
