#include "solve/element_matrix.hpp"

#include "solve/gradient_kernels.hpp"
#include "solve/material/volume_strain.hpp"

namespace dotsift {

std::span<const ShapePoint> integration_points(const Mesh& mesh, const Laws& laws, std::size_t e,
                                               std::span<const Vec2> positions) {
    const ElementKind kind = mesh.kinds[e];
    // The radius, or a thickness or material that changes, raises the degree in the integrals by one, and the hoop
    // strain is no polynomial at all.
    if (!laws.even(mesh.region[e])) return tabulated(kind, quadrature(kind, polynomial_degree(kind) == 1 ? 4 : 6));
    if (corner_count(kind) == 3 && projects_volume(mesh, laws, e))  // the squares of a bubble's gradients
        return tabulated(kind, quadrature(kind, 4));
    return tabulated(kind, stiffness_rule(kind, is_straight(kind, positions)));
}

void elastic_matrix(const Mesh& mesh, const Laws& laws, const std::vector<double>& factor, std::size_t e,
                    const Vec2& centre, double arm, ElementMatrix& k) {
    if (projects_volume(mesh, laws, e)) {
        projected_matrix(mesh, laws, e, centre, arm, k);
        return;
    }
    const ElementKind kind = mesh.kinds[e];
    const auto nodes = static_cast<std::size_t>(node_count(kind));
    const auto positions = mesh.positions(e);
    const TensorMatrix<2>& d = laws.of(mesh.region[e]).elastic.stiffness;
    k.reset(2 * nodes + (laws.plane == Plane::generalised_strain ? most_shared_dofs : 0));
    std::array<NodeStrain, most_element_nodes> b{};
    for (const auto& q : integration_points(mesh, laws, e, positions)) {
        const ElementPoint p = evaluate(kind, positions, q);
        double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
        if (!factor.empty()) w *= slot_value(mesh, factor, e, p);
        for (std::size_t i = 0; i < nodes; ++i) b[i] = {p.dn[i][0], p.dn[i][1], 0};
        if (laws.axisymmetric()) {
            for (std::size_t i = 0; i < nodes; ++i) b[i].z = p.n[i] / p.position[0];
            add_plane_stiffness<true>(std::span(b).first(nodes), d, w, k);
            continue;
        }
        add_plane_stiffness<false>(std::span(b).first(nodes), d, w, k);
        if (laws.plane != Plane::generalised_strain) continue;
        const Vec2 from = (p.position - centre) / arm;
        const std::array<double, most_shared_dofs> z{1, from[0], from[1]};
        for (std::size_t s = 0; s < most_shared_dofs; ++s) {
            double* row = k.row(2 * nodes + s);
            for (std::size_t i = 0; i < nodes; ++i) {
                row[2 * i] += z[s] * w * (d[3][0] * b[i].x + d[3][2] * b[i].y);
                row[2 * i + 1] += z[s] * w * (d[3][1] * b[i].y + d[3][2] * b[i].x);
            }
            for (std::size_t t = 0; t <= s; ++t) row[2 * nodes + t] += z[s] * z[t] * w * d[3][3];
        }
    }
    for (std::size_t i = 0; i < nodes; ++i) k(2 * i, 2 * i + 1) = k(2 * i + 1, 2 * i);
}

void conduction_matrix(const Mesh& mesh, const Laws& laws, const std::vector<double>& factor, std::size_t e,
                       ElementMatrix& k) {
    const ElementKind kind = mesh.kinds[e];
    const auto nodes = static_cast<std::size_t>(node_count(kind));
    const auto positions = mesh.positions(e);
    const auto& c = laws.of(mesh.region[e]).conduction.conductivity;
    k.reset(nodes);
    for (const auto& q : integration_points(mesh, laws, e, positions)) {
        const ElementPoint p = evaluate(kind, positions, q);
        double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
        if (!factor.empty()) w *= slot_value(mesh, factor, e, p);
        add_conduction<2>(std::span<const Vec2>(p.dn).first(nodes), c, w, k);
    }
}

Strain strain_at(const Mesh& mesh, Plane plane, const std::vector<Vec2>& displacement, const AxialStrain& axial,
                 std::size_t e, const ElementPoint& p) {
    Strain strain{};
    const auto nodes = mesh.element(e);
    double radial = 0;
    for (std::size_t i = 0; i < nodes.size(); ++i) {
        const Vec2& u = displacement[static_cast<std::size_t>(nodes[i])];
        add_strain(p.dn[i], u, strain);
        radial += p.n[i] * u[0];
    }
    if (plane == Plane::axisymmetric)
        strain[3] = p.position[0] > 0 ? radial / p.position[0] : strain[0];  // on the axis the limit, since u = 0 there
    else if (plane == Plane::generalised_strain)
        strain[3] = axial.at(p.position);
    return strain;
}

Strain3 strain_at(const SolidMesh& mesh, const std::vector<Vec3>& displacement, std::size_t e,
                  const ElementPointIn<3>& p) {
    Strain3 strain{};
    const auto nodes = mesh.element(e);
    for (std::size_t i = 0; i < nodes.size(); ++i)
        add_strain(p.dn[i], displacement[static_cast<std::size_t>(nodes[i])], strain);
    return strain;
}

template <int D>
double slot_value(const MeshIn<D>& mesh, const std::vector<double>& slots, std::size_t e, const ElementPointIn<D>& p) {
    if (slots.empty()) return 0;
    double v = 0;
    const auto list = mesh.slots_of(e);
    for (std::size_t i = 0; i < list.size(); ++i) v += p.n[i] * slots[static_cast<std::size_t>(list[i])];
    return v;
}
template double slot_value<2>(const MeshIn<2>&, const std::vector<double>&, std::size_t, const ElementPointIn<2>&);
template double slot_value<3>(const MeshIn<3>&, const std::vector<double>&, std::size_t, const ElementPointIn<3>&);

template <int D>
Vec<D> slot_gradient(const MeshIn<D>& mesh, const std::vector<double>& slots, std::size_t e,
                     const ElementPointIn<D>& p) {
    Vec<D> g;
    if (slots.empty()) return g;
    const auto list = mesh.slots_of(e);
    for (std::size_t i = 0; i < list.size(); ++i) g += p.dn[i] * slots[static_cast<std::size_t>(list[i])];
    return g;
}
template Vec2 slot_gradient<2>(const MeshIn<2>&, const std::vector<double>&, std::size_t, const ElementPointIn<2>&);
template Vec3 slot_gradient<3>(const MeshIn<3>&, const std::vector<double>&, std::size_t, const ElementPointIn<3>&);

}  // namespace dotsift
