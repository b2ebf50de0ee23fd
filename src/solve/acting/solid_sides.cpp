#include "solve/acting/solid_sides.hpp"

#include <cmath>

namespace dotsift {

namespace {

constexpr int force_degree = 6;

}  // namespace

std::vector<SolidSidePoint> solid_side_points(const SolidMesh& mesh, const BoundarySide& side, int degree) {
    const auto e = static_cast<std::size_t>(side.element);
    const ElementKind kind = side_kind(mesh.kinds[e], side.side);
    const auto& local = side_nodes(mesh.kinds[e], side.side);
    const auto positions = mesh.positions(e);
    std::vector<SolidSidePoint> out;
    for (const auto& q : tabulated(kind, quadrature(kind, degree))) {
        SolidSidePoint& p = out.emplace_back();
        Vec3 along, across;
        for (std::size_t i = 0; i < local.size(); ++i) {
            p.n[i] = q.n[i];
            p.position += positions[local[i]] * q.n[i];
            along += positions[local[i]] * q.dn[i][0];
            across += positions[local[i]] * q.dn[i][1];
        }
        p.normal = cross(along, across);
        const double area = norm(p.normal);
        p.normal = p.normal / area;
        p.area = q.weight * area;
    }
    return out;
}

std::vector<double> solid_side_forces(const SolidMesh& mesh, const FieldLayout& layout,
                                      const std::function<bool(const BoundarySide&)>& acts,
                                      const SideDensity& density) {
    std::vector<double> out(static_cast<std::size_t>(layout.dofs), 0.0);
    const auto components = static_cast<std::size_t>(layout.components);
    std::array<double, 3> here{};
    for (const auto& side : mesh.boundary) {
        if (!acts(side)) continue;
        const auto e = static_cast<std::size_t>(side.element);
        const auto& local = side_nodes(mesh.kinds[e], side.side);
        const auto nodes = layout.connectivity.subspan(static_cast<std::size_t>(mesh.first[e]));
        for (const auto& p : solid_side_points(mesh, side, force_degree)) {
            density(p.position, p.normal, std::span(here).first(components));
            for (std::size_t i = 0; i < local.size(); ++i)
                for (std::size_t c = 0; c < components; ++c)
                    out[static_cast<std::size_t>(nodes[local[i]]) * components + c] += p.area * p.n[i] * here[c];
        }
    }
    return out;
}

std::vector<ConstraintRow> solid_side_rows(const SolidMesh& mesh, int components,
                                           const std::function<bool(const BoundarySide&)>& on,
                                           const std::function<void(const Vec3& place, std::span<double> value)>& value,
                                           int source) {
    // In the order of the nodes, each once.
    std::vector<char> held(mesh.nodes.size(), 0);
    for (const auto& side : mesh.boundary) {
        if (!on(side)) continue;
        const auto e = static_cast<std::size_t>(side.element);
        for (const auto local : side_nodes(mesh.kinds[e], side.side))
            held[static_cast<std::size_t>(mesh.element(e)[local])] = 1;
    }
    std::vector<ConstraintRow> rows;
    std::array<double, 3> here{};
    for (std::size_t n = 0; n < held.size(); ++n) {
        if (!held[n]) continue;
        value(mesh.nodes[n], std::span(here).first(static_cast<std::size_t>(components)));
        for (int c = 0; c < components; ++c)
            if (const double v = here[static_cast<std::size_t>(c)]; !std::isnan(v))
                rows.push_back({{{static_cast<std::int32_t>(n) * components + c, 1.0}}, {v}, source});
    }
    return rows;
}

}  // namespace dotsift
