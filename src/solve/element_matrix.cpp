#include "solve/element_matrix.hpp"

#include "solve/gradient_kernels.hpp"
#include "solve/volume_strain.hpp"

namespace dotsift {

namespace {

/// Strains of a displacement of one node: what its x component brings (xx, yy, xy, zz), and its y component.
struct NodeStrain {
    double x, y;  ///< derivatives of the shape function: xx = x ux, yy = y uy, xy = y ux + x uy
    double z;     ///< zz = z ux
};

using LawMatrix = std::array<std::array<double, 4>, 4>;

template <bool with_zz>
void add_point(std::span<const NodeStrain> b, const LawMatrix& d, double w, ElementMatrix& k) {
    const std::size_t n = k.rows();
    for (std::size_t j = 0; j < b.size(); ++j) {
        const double bx = b[j].x * w, by = b[j].y * w, bz = b[j].z * w;
        // Stresses of the displacements of node j along x and along y
        double x0 = d[0][0] * bx + d[0][2] * by, x1 = d[1][0] * bx + d[1][2] * by, x2 = d[2][0] * bx + d[2][2] * by;
        double x3 = 0;
        const double y0 = d[0][1] * by + d[0][2] * bx, y1 = d[1][1] * by + d[1][2] * bx,
                     y2 = d[2][1] * by + d[2][2] * bx;
        double y3 = 0;
        if constexpr (with_zz) {
            x0 += d[0][3] * bz;
            x1 += d[1][3] * bz;
            x2 += d[2][3] * bz;
            x3 = d[3][0] * bx + d[3][2] * by + d[3][3] * bz;
            y3 = d[3][1] * by + d[3][2] * bx;
        }
        for (std::size_t i = j; i < b.size(); ++i) {
            const double ax = b[i].x, ay = b[i].y;
            double* row = k.row(2 * i) + 2 * j;
            row[0] += ax * x0 + ay * x2;
            row[1] += ax * y0 + ay * y2;
            row[n] += ay * x1 + ax * x2;
            row[n + 1] += ay * y1 + ax * y2;
            if constexpr (with_zz) {
                row[0] += b[i].z * x3;
                row[1] += b[i].z * y3;
            }
        }
    }
}

}  // namespace

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
    const LawMatrix& d = laws.of(mesh.region[e]).elastic.stiffness;
    k.reset(2 * nodes + (laws.plane == Plane::generalised_strain ? most_shared_dofs : 0));
    std::array<NodeStrain, most_element_nodes> b{};
    for (const auto& q : integration_points(mesh, laws, e, positions)) {
        const ElementPoint p = evaluate(kind, positions, q);
        double w = q.weight * p.jacobian * laws.depth(mesh.region[e], p.position);
        if (!factor.empty()) w *= slot_value(mesh, factor, e, p);
        for (std::size_t i = 0; i < nodes; ++i) b[i] = {p.dn[i][0], p.dn[i][1], 0};
        if (laws.axisymmetric()) {
            for (std::size_t i = 0; i < nodes; ++i) b[i].z = p.n[i] / p.position[0];
            add_point<true>(std::span(b).first(nodes), d, w, k);
            continue;
        }
        add_point<false>(std::span(b).first(nodes), d, w, k);
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
        add_conduction(std::span<const Vec2>(p.dn).first(nodes), c, w, k);
    }
}

Tensor4 strain_at(const Mesh& mesh, Plane plane, const std::vector<Vec2>& displacement, const AxialStrain& axial,
                  std::size_t e, const ElementPoint& p) {
    Tensor4 strain{};
    const auto nodes = mesh.element(e);
    double radial = 0;
    for (std::size_t i = 0; i < nodes.size(); ++i) {
        const Vec2& u = displacement[static_cast<std::size_t>(nodes[i])];
        strain[0] += p.dn[i][0] * u[0];
        strain[1] += p.dn[i][1] * u[1];
        strain[2] += p.dn[i][1] * u[0] + p.dn[i][0] * u[1];
        radial += p.n[i] * u[0];
    }
    if (plane == Plane::axisymmetric)
        strain[3] = p.position[0] > 0 ? radial / p.position[0] : strain[0];  // on the axis the limit, since u = 0 there
    else if (plane == Plane::generalised_strain)
        strain[3] = axial.at(p.position);
    return strain;
}

double slot_value(const Mesh& mesh, const std::vector<double>& slots, std::size_t e, const ElementPoint& p) {
    if (slots.empty()) return 0;
    double v = 0;
    const auto list = mesh.slots_of(e);
    for (std::size_t i = 0; i < list.size(); ++i) v += p.n[i] * slots[static_cast<std::size_t>(list[i])];
    return v;
}

Vec2 slot_gradient(const Mesh& mesh, const std::vector<double>& slots, std::size_t e, const ElementPoint& p) {
    Vec2 g;
    if (slots.empty()) return g;
    const auto list = mesh.slots_of(e);
    for (std::size_t i = 0; i < list.size(); ++i) g += p.dn[i] * slots[static_cast<std::size_t>(list[i])];
    return g;
}

}  // namespace dotsift
