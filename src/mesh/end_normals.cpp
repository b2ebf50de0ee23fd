#include "mesh/end_normals.hpp"

#include <cmath>

namespace dotsift {

namespace {

// Where a chain of curves bends, the tangent is taken this share of the side inwards.
constexpr double inwards = 1e-6;

}  // namespace

std::vector<std::array<Vec2, 3>> end_normals(const Part& part, const Mesh& mesh) {
    std::vector<std::array<Vec2, 3>> out;
    out.reserve(mesh.boundary.size());
    for (const auto& side : mesh.boundary) {
        const Curve& curve = part.edge(side.edge).curve;
        const Vec2 &a = mesh.nodes[static_cast<std::size_t>(side.nodes[0])],
                   &b = mesh.nodes[static_cast<std::size_t>(side.nodes[1])];
        const auto normal = [&](Vec2 along) {
            if (dot(along, b - a) < 0) along = -along;
            return -turned_left(along) / norm(along);
        };
        if (curve.straight()) {
            const Vec2 n = normal(curve.derivative(0));
            out.push_back({n, n, n});
            continue;
        }
        const double middle = curve.project((a + b) * 0.5);
        const auto at = [&](const Vec2& p) {
            double t = curve.project(p);
            if (std::fabs(t - middle) > 0.5) t = 1 - t;  // the ends of a closed curve are one point
            return normal(curve.derivative(t + inwards * (middle - t)));
        };
        out.push_back({at(a), at(b), normal(curve.derivative(middle))});
    }
    return out;
}

std::vector<std::array<Vec3, most_side_nodes>> end_normals(const SolidPart& part, const SolidMesh& mesh) {
    std::vector<std::array<Vec3, most_side_nodes>> out;
    out.reserve(mesh.boundary.size());
    for (const auto& side : mesh.boundary) {
        const Surface& surface = part.face(side.edge).surface;
        const auto e = static_cast<std::size_t>(side.element);
        const auto& local = side_nodes(mesh.kinds[e], side.side);
        const auto x = mesh.positions(e);
        const Vec3 outward = cross(x[local[1]] - x[local[0]], x[local[2]] - x[local[0]]);
        const Vec3 centre = (x[local[0]] + x[local[1]] + x[local[2]]) / 3;
        const double way = dot(outward, surface.normal(surface.project(centre))) > 0 ? 1 : -1;
        auto& normals = out.emplace_back();
        for (std::size_t k = 0; k < local.size(); ++k) normals[k] = surface.normal(surface.project(x[local[k]])) * way;
    }
    return out;
}

}  // namespace dotsift
