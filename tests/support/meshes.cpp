#include "support/meshes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <set>
#include <span>

#include "mesh/shape.hpp"
#include "part/corners.hpp"

namespace dotsift::test {

std::string fault_of(const Part& part, const Mesh& mesh) {
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        if (!(jacobian_bound(mesh.kinds[e], mesh.positions(e)) > 0))
            return fmt::format("inverted element at ({:g}, {:g})", mesh.centre_of(e)[0], mesh.centre_of(e)[1]);
    const bool linear = polynomial_degree(mesh.kinds.front()) == 1;
    const double gap = std::fabs(mesh.area() - part.area()) / part.area();
    if (gap > (linear ? 5e-2 : 1e-3)) return fmt::format("the area is wrong by {:g}", gap);
    std::map<std::pair<int, int>, int> sides;  // how often each is used
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto nodes = mesh.element(e);
        const auto corners = static_cast<std::size_t>(corner_count(mesh.kinds[e]));
        for (std::size_t i = 0; i < corners; ++i) ++sides[std::minmax(nodes[i], nodes[(i + 1) % corners])];
    }
    std::set<std::pair<int, int>> outline;
    std::set<int> edges;
    for (const auto& b : mesh.boundary) {
        edges.insert(b.edge);
        if (!part.edge(b.edge).interior()) outline.insert(std::minmax(b.nodes[0], b.nodes[1]));
    }
    if (edges.size() != part.edges.size()) return "an edge is lost";
    for (const auto& [side, count] : sides)
        if (count != (outline.count(side) ? 1 : 2))
            return fmt::format("a side at ({:g}, {:g}) belongs to {} elements",
                               mesh.nodes[static_cast<std::size_t>(side.first)][0],
                               mesh.nodes[static_cast<std::size_t>(side.first)][1], count);
    for (const auto& p : mesh.points)
        if (p.node < 0) return "the point " + p.name + " is lost";
    return {};
}

MeshFigures figures_of(const Part& part, const Mesh& mesh, const SizeField& sizes) {
    MeshFigures f;
    f.elements = mesh.element_count();
    // Not held against the mesh: angles in a corner of the part that is sharper itself, as far as it is narrower than
    // an element.
    const auto sharp = sharpest_angles(part);
    struct Corner {
        Vec2 at;
        double reach;
    };
    std::vector<Corner> excused;
    for (std::size_t v = 0; v < part.vertices.size(); ++v)
        if (sharp[v] < sharp_corner)
            excused.push_back(
                {part.vertices[v], sizes.at(part.vertices[v]) / (2 * std::tan(sharp[v] * std::numbers::pi / 360))});
    double edges = 0, good = 0, area = 0, quads = 0, count_quads = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        const auto corners = std::span(p).first(static_cast<std::size_t>(corner_count(mesh.kinds[e])));
        const ShapeMeasures m = measure_shape(corners);
        f.mean_quality += m.mean_ratio / static_cast<double>(f.elements);
        const bool at_sharp = std::any_of(corners.begin(), corners.end(), [&](const Vec2& q) {
            return std::any_of(excused.begin(), excused.end(),
                               [&](const Corner& c) { return distance(c.at, q) <= c.reach; });
        });
        if (!at_sharp) f.least_angle = std::min(f.least_angle, m.smallest_angle);
        area += mesh.area_of(e);
        if (corners.size() == 4) {
            quads += mesh.area_of(e);
            ++count_quads;
            if (!at_sharp) f.worst_jacobian = std::min(f.worst_jacobian, m.scaled_jacobian);
            f.mean_jacobian += m.scaled_jacobian;
        }
        for (std::size_t i = 0; i < corners.size(); ++i) {
            const Vec2 &a = corners[i], &b = corners[(i + 1) % corners.size()];
            const double share = distance(a, b) / sizes.at((a + b) * 0.5);
            ++edges;
            if (share >= 0.7 && share <= 1.4) ++good;
        }
    }
    f.edges = good / edges;
    f.quad_area = quads / area;
    f.mean_jacobian /= std::max(count_quads, 1.0);
    return f;
}

bool good_enough(const MeshFigures& f, int shape) {
    if (shape == 0)
        return f.least_angle >= least_angle && f.mean_quality >= least_mean_quality && f.edges >= least_edges;
    if (shape == 1)
        return f.quad_area >= least_quad_area && f.worst_jacobian >= least_quad_jacobian &&
               f.mean_jacobian >= least_mean_jacobian;
    return f.quad_area == 1 && f.worst_jacobian >= least_jacobian_of_quads_alone;
}

}  // namespace dotsift::test
