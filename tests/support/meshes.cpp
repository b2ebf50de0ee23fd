#include "support/meshes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <set>
#include <span>

#include "mesh/elements/jacobian_bound.hpp"
#include "mesh/elements/shape.hpp"
#include "part/shapes/corners.hpp"

namespace dotsift::test {

std::string fault_of(const Part& part, const Mesh& mesh) {
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        if (!(jacobian_bound(mesh.kinds[e], mesh.positions(e)) > 0))
            return fmt::format("inverted element at ({:g}, {:g})", mesh.centre_of(e)[0], mesh.centre_of(e)[1]);
    const bool linear = polynomial_degree(mesh.kinds.front()) == 1;
    const double gap = std::fabs(mesh.measure() - part.area()) / part.area();
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
        area += mesh.measure_of(e);
        if (corners.size() == 4) {
            quads += mesh.measure_of(e);
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

std::vector<EdgeLayers> layers_everywhere(const Part& part, const SizeField& sizes) {
    std::vector<EdgeLayers> rows;
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        const PartEdge& edge = part.edges[e];
        if (edge.interior()) continue;
        double least = INFINITY;
        for (int k = 0; k <= 16; ++k) least = std::min(least, sizes.at(edge.curve.point(k / 16.0)));
        EdgeLayers r;
        r.edge = static_cast<int>(e);
        r.left = edge.left >= 0;
        r.first = least / 4;
        r.rows = 3;
        r.growth = 1.3;
        r.rule = 0;
        rows.push_back(r);
    }
    double least = INFINITY;  // the same on all, so that rows meet at corners
    for (const auto& r : rows) least = std::min(least, r.first);
    for (auto& r : rows) r.first = least;
    return rows;
}

LayerFigures layer_figures_of(const Mesh& mesh, const std::vector<EdgeLayers>& rows,
                              const std::vector<ThinnedPlace>& thinned) {
    std::map<int, double> first;
    for (const auto& r : rows) first[r.edge] = r.first;
    std::set<int> reported;
    for (const auto& t : thinned) reported.insert(t.edge);
    std::set<std::int32_t> bottom, tops;
    for (const auto& b : mesh.boundary) bottom.insert({b.nodes[0], b.nodes[1]});
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (mesh.row[e] != 1) continue;
        for (int k = 0; k < corner_count(mesh.kinds[e]); ++k)
            if (const auto n = mesh.element(e)[static_cast<std::size_t>(k)]; !bottom.count(n)) tops.insert(n);
    }
    LayerFigures f;
    std::size_t good = 0;
    for (const auto n : tops) {
        const Vec2& p = mesh.nodes[static_cast<std::size_t>(n)];
        double height = INFINITY;
        int edge = -1;
        for (const auto& b : mesh.boundary) {
            if (!first.count(b.edge)) continue;
            const double d = distance(p, nearest_on_segment(p, mesh.nodes[static_cast<std::size_t>(b.nodes[0])],
                                                            mesh.nodes[static_cast<std::size_t>(b.nodes[1])]));
            if (d >= height) continue;
            height = d;
            edge = b.edge;
        }
        ++f.nodes;
        if (reported.count(edge)) {
            ++f.reported;
            continue;
        }
        const double off = std::fabs(height / first[edge] - 1);
        f.worst = std::max(f.worst, off);
        good += off <= 0.05;
    }
    if (f.nodes > f.reported) f.within = static_cast<double>(good) / static_cast<double>(f.nodes - f.reported);
    return f;
}

}  // namespace dotsift::test
