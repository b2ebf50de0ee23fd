#include "solve/acting/side_geometry.hpp"

namespace dotsift {

std::array<SidePoint, 5> side_points(const Mesh& mesh, const BoundarySide& side) {
    const auto rule = line_rule();
    const bool linear = side.count() == 2;
    const Vec2 &a = mesh.nodes[static_cast<std::size_t>(side.nodes[0])],
               &b = mesh.nodes[static_cast<std::size_t>(side.nodes[1])];
    const Vec2 m = linear ? (a + b) * 0.5 : mesh.nodes[static_cast<std::size_t>(side.nodes[2])];
    std::array<SidePoint, 5> points{};
    for (std::size_t k = 0; k < 5; ++k) {
        const double t = rule[k].t;
        auto& p = points[k];
        p.n = {(1 - t) * (1 - 2 * t), t * (2 * t - 1), 4 * t * (1 - t)};
        p.position = a * p.n[0] + b * p.n[1] + m * p.n[2];
        const Vec2 tangent = a * (4 * t - 3) + b * (4 * t - 1) + m * (4 - 8 * t);
        const double speed = norm(tangent);
        p.normal = -turned_left(tangent) / speed;
        p.length = speed * rule[k].weight;
        if (linear) p.n = {1 - t, t, 0};
    }
    return points;
}

}  // namespace dotsift
