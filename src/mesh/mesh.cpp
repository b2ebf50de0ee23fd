#include "mesh/mesh.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "mesh/elements/shape.hpp"

namespace dotsift {

template <int D>
std::array<Vec<D>, most_nodes<D>> MeshIn<D>::positions(std::size_t e) const {
    std::array<Vec<D>, most_nodes<D>> p{};
    const auto list = element(e);
    for (std::size_t i = 0; i < list.size(); ++i) p[i] = nodes[static_cast<std::size_t>(list[i])];
    return p;
}

template <int D>
Vec<D> MeshIn<D>::centre_of(std::size_t e) const {
    const auto list = element(e);
    const auto corners = static_cast<std::size_t>(corner_count(kinds[e]));
    Vec<D> sum;
    for (std::size_t i = 0; i < corners; ++i) sum += nodes[static_cast<std::size_t>(list[i])];
    return sum / static_cast<double>(corners);
}

template <int D>
bool MeshIn<D>::touches(std::size_t e, const Vec<D>& point, double near) const {
    const auto list = element(e);
    return std::any_of(list.begin(), list.end(),
                       [&](auto n) { return distance(nodes[static_cast<std::size_t>(n)], point) <= near; });
}

template <>
double MeshIn<2>::measure_of(std::size_t e) const {
    // Half the boundary integral of x dy - y dx over the straight or parabolic sides; exact. About the first corner:
    // about the origin a small element far from it would lose all its digits.
    const auto p = positions(e);
    const auto corners = static_cast<std::size_t>(corner_count(kinds[e]));
    double twice = 0;
    for (std::size_t s = 0; s < corners; ++s) {
        const Vec2 &a = p[s], &b = p[(s + 1) % corners];
        twice += cross(a - p[0], b - p[0]);
        if (polynomial_degree(kinds[e]) == 2) twice += 4.0 / 3 * cross(p[s + corners] - (a + b) * 0.5, b - a);
    }
    return twice / 2;
}

template <>
double MeshIn<3>::measure_of(std::size_t e) const {
    const auto p = positions(e);
    const bool tetrahedron = corner_count(kinds[e]) == 4;
    if (tetrahedron && is_straight(kinds[e], p)) return dot(cross(p[1] - p[0], p[2] - p[0]), p[3] - p[0]) / 6;
    double volume = 0;
    // The determinant of quadratic elements has degree 3 in tetrahedra, 5 in each coordinate of the others.
    for (const auto& q : tabulated<3>(kinds[e], quadrature<3>(kinds[e], tetrahedron ? 3 : 6)))
        volume += q.weight * evaluate<3>(kinds[e], p, q).jacobian;
    return volume;
}

template <>
double MeshIn<2>::size_of(std::size_t e) const {
    return std::sqrt(measure_of(e) * (corner_count(kinds[e]) == 3 ? 4 / std::numbers::sqrt3 : 1));
}

template <>
double MeshIn<3>::size_of(std::size_t e) const {
    // Volumes of the solids of edge 1
    constexpr std::array<double, 9> volume{
        0, 0, 0, 0, std::numbers::sqrt2 / 12, std::numbers::sqrt2 / 6, std::numbers::sqrt3 / 4, 0, 1};
    return std::cbrt(measure_of(e) / volume[static_cast<std::size_t>(corner_count(kinds[e]))]);
}

template <int D>
double MeshIn<D>::measure() const {
    double sum = 0;
    for (std::size_t e = 0; e < element_count(); ++e) sum += measure_of(e);
    return sum;
}

template struct MeshIn<2>;
template struct MeshIn<3>;

void put_on_axis(Mesh& mesh, double reach) {
    for (Vec2& p : mesh.nodes)
        if (std::fabs(p[0]) <= reach) p[0] = 0;
}

MeshSummary summarise(const Mesh& mesh) {
    MeshSummary s;
    s.nodes = mesh.nodes.size();
    s.elements = mesh.element_count();
    double sum = 0;
    std::size_t judged = 0;
    s.smallest_angle = 180;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        s.measure += mesh.measure_of(e);
        const auto corners = std::span(p).first(static_cast<std::size_t>(corner_count(mesh.kinds[e])));
        if (corners.size() == 4) ++s.quadrilaterals;
        const ShapeMeasures m = measure_shape(corners);
        s.smallest_angle = std::min(s.smallest_angle, m.smallest_angle);
        if (mesh.row[e] > 0) continue;  // thin on purpose
        ++judged;
        sum += m.mean_ratio;
        if (m.mean_ratio < s.worst_quality) {
            s.worst_quality = m.mean_ratio;
            s.worst_position = in_space(mesh.centre_of(e));
        }
    }
    if (s.elements > 0) {
        s.mean_quality = judged > 0 ? sum / static_cast<double>(judged) : 1;
        s.characteristic_size = std::sqrt(s.measure / static_cast<double>(s.elements));
    }
    return s;
}

MeshSummary summarise(const SolidMesh& mesh) {
    MeshSummary s;
    s.nodes = mesh.nodes.size();
    s.elements = mesh.element_count();
    s.smallest_angle = 180;
    double sum = 0;
    std::size_t judged = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        s.measure += mesh.measure_of(e);
        if (corner_count(mesh.kinds[e]) != 4) continue;  // other kinds have no measures yet
        const auto p = mesh.positions(e);
        const std::array<Vec3, 4> corners{p[0], p[1], p[2], p[3]};
        s.smallest_angle = std::min(s.smallest_angle, dihedral_angles(corners)[0] * 180 / std::numbers::pi);
        const double shape = mean_ratio(corners);
        ++judged;
        sum += shape;
        if (shape >= s.worst_quality) continue;
        s.worst_quality = shape;
        s.worst_position = mesh.centre_of(e);
    }
    if (s.elements > 0) {
        s.mean_quality = judged > 0 ? sum / static_cast<double>(judged) : 1;
        s.characteristic_size = std::cbrt(s.measure / static_cast<double>(s.elements));
    }
    return s;
}

}  // namespace dotsift
