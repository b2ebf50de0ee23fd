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

}  // namespace dotsift
