#include "part/solid/merged_corners.hpp"

#include <algorithm>

namespace dotsift {

namespace {

constexpr double same_share = 1e-9;  // of the part's size: corners nearer to each other are one
// And an edge between them that strays no farther is none; the library's tolerances may be as wide.
constexpr double stray_share = 5e-3;

/// Both ends are at the same place, and it goes nowhere in between.
bool is_none(const CurveIn<3>& curve, double size) {
    constexpr int samples = 8;
    const Vec3 start = curve.point(0);
    if (distance(curve.point(1), start) > same_share * size) return false;
    for (int k = 1; k < samples; ++k)
        if (distance(curve.point(static_cast<double>(k) / samples), start) > stray_share * size) return false;
    return true;
}

}  // namespace

void merge_corners(SolidPart& part) {
    const double size = part.box.diagonal();
    std::vector<char> gone(part.edges.size(), 0);
    std::vector<int> corner(part.vertices.size());
    for (std::size_t v = 0; v < corner.size(); ++v) corner[v] = static_cast<int>(v);
    const auto root = [&](int v) {
        while (corner[static_cast<std::size_t>(v)] != v) v = corner[static_cast<std::size_t>(v)];
        return v;
    };
    bool any = false;
    for (std::size_t e = 0; e < gone.size(); ++e) {
        const auto& edge = part.edges[e];
        if (edge.start == edge.end || !is_none(edge.curve, size)) continue;
        gone[e] = 1;
        any = true;
        const int a = root(edge.start), b = root(edge.end);
        corner[static_cast<std::size_t>(std::max(a, b))] = std::min(a, b);
    }
    if (!any) return;
    std::vector<int> number(part.vertices.size(), -1), edge_number(part.edges.size(), -1);
    std::vector<Vec3> vertices;
    for (std::size_t v = 0; v < corner.size(); ++v) {
        if (root(static_cast<int>(v)) != static_cast<int>(v)) continue;
        number[v] = static_cast<int>(vertices.size());
        vertices.push_back(part.vertices[v]);
    }
    const auto now = [&](int v) { return number[static_cast<std::size_t>(root(v))]; };
    std::vector<SolidEdge> edges;
    for (std::size_t e = 0; e < gone.size(); ++e) {
        if (gone[e]) continue;
        edge_number[e] = static_cast<int>(edges.size());
        edges.push_back(part.edges[e]);
        edges.back().start = now(edges.back().start);
        edges.back().end = now(edges.back().end);
        edges.back().curve.set_ends(vertices[static_cast<std::size_t>(edges.back().start)],
                                    vertices[static_cast<std::size_t>(edges.back().end)]);
    }
    for (auto& face : part.faces) {
        for (int& v : face.marks) v = now(v);
        for (auto& loop : face.loops) {
            loop.erase(std::remove_if(loop.begin(), loop.end(),
                                      [&](const EdgeUse& u) { return gone[static_cast<std::size_t>(u.edge)] != 0; }),
                       loop.end());
            for (auto& use : loop) use.edge = edge_number[static_cast<std::size_t>(use.edge)];
        }
        face.loops.erase(std::remove_if(face.loops.begin(), face.loops.end(), [](const auto& l) { return l.empty(); }),
                         face.loops.end());
    }
    for (auto& p : part.points) p.vertex = now(p.vertex);
    part.edges = std::move(edges);
    part.vertices = std::move(vertices);
}

}  // namespace dotsift
