#include "mesh/plane/assemble.hpp"

#include <algorithm>
#include <map>
#include <optional>
#include <utility>

#include "mesh/order.hpp"
#include "mesh/plane/corner_topology.hpp"

namespace dotsift {

namespace {

using Element = CornerMesh::Element;

/// Elements by the place of their first corner along a Hilbert curve over all points.
void sort_elements(CornerMesh& mesh) {
    const auto order = hilbert_order(mesh.points);
    std::vector<std::int32_t> rank(order.size());
    for (std::size_t k = 0; k < order.size(); ++k)
        rank[static_cast<std::size_t>(order[k])] = static_cast<std::int32_t>(k);
    const auto least_rank = [&](const Element& e) {
        std::int32_t least = rank[static_cast<std::size_t>(e.v[0])];
        for (std::size_t i = 1; i < e.corners(); ++i) least = std::min(least, rank[static_cast<std::size_t>(e.v[i])]);
        return static_cast<std::size_t>(least);
    };
    std::vector<std::int32_t> first(order.size() + 1, 0);
    for (const auto& e : mesh.elements) ++first[least_rank(e) + 1];
    for (std::size_t k = 0; k < order.size(); ++k) first[k + 1] += first[k];
    std::vector<Element> sorted(mesh.elements.size());
    for (const auto& e : mesh.elements) sorted[static_cast<std::size_t>(first[least_rank(e)]++)] = e;
    mesh.elements = std::move(sorted);
}

}  // namespace

Mesh assemble(const Part& part, const Division& division, CornerMesh corners, int degree) {
    if (!corners.ordered) sort_elements(corners);
    std::map<std::pair<std::int32_t, std::int32_t>, Vec2> bent;
    for (const auto& b : corners.bent) bent[std::minmax(b.a, b.b)] = b.middle;
    const std::size_t count = corners.elements.size();
    const auto& segments = division.segments;

    Mesh mesh;
    mesh.kinds.reserve(count);
    mesh.region.reserve(count);
    mesh.row.reserve(count);
    mesh.first.reserve(count + 1);
    std::vector<std::int32_t> node_of(corners.points.size(), -1), middle;
    std::optional<EdgeNumbers> edges;
    if (degree == 2) {
        edges.emplace(corners);
        middle.assign(edges->count(), -1);
    }
    mesh.nodes.reserve(corners.points.size() + middle.size());
    const auto new_node = [&](const Vec2& p) {
        mesh.nodes.push_back(p);
        return static_cast<std::int32_t>(mesh.nodes.size() - 1);
    };
    for (std::size_t e = 0; e < count; ++e) {
        const auto& element = corners.elements[e];
        const std::size_t n = element.corners();
        mesh.kinds.push_back(kind_of(static_cast<int>(n), degree));
        mesh.region.push_back(part.faces[static_cast<std::size_t>(element.face)].region);
        mesh.row.push_back(element.row);
        mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
        std::array<std::int32_t, most_element_nodes> nodes{};
        for (std::size_t i = 0; i < n; ++i) {
            auto& node = node_of[static_cast<std::size_t>(element.v[i])];
            if (node < 0) node = new_node(corners.points[static_cast<std::size_t>(element.v[i])]);
            nodes[i] = node;
        }
        for (std::size_t i = 0; degree == 2 && i < n; ++i) {
            auto& node = middle[edges->of(e, i)];
            const std::int32_t a = element.v[i], b = element.v[(i + 1) % n];
            if (node < 0) {
                const Vec2 half =
                    (corners.points[static_cast<std::size_t>(a)] + corners.points[static_cast<std::size_t>(b)]) * 0.5;
                Vec2 place = half;
                const int segment = element.segment[i];
                if (segment >= 0 && segments[static_cast<std::size_t>(segment)].edge >= 0) {
                    place = middle_on_edge(part, segments[static_cast<std::size_t>(segment)]);
                } else if (!bent.empty()) {
                    if (const auto found = bent.find(std::minmax(a, b)); found != bent.end()) place = found->second;
                }
                node = new_node(place);
            }
            nodes[n + i] = node;
        }
        if (degree == 2 && n == 4) {
            // By blending its sides (Gordon & Hall 1973).
            Vec2 centre;
            for (std::size_t i = 0; i < 4; ++i)
                centre += mesh.nodes[static_cast<std::size_t>(nodes[4 + i])] * 0.5 -
                          mesh.nodes[static_cast<std::size_t>(nodes[i])] * 0.25;
            nodes[8] = new_node(centre);
        }
        mesh.connectivity.insert(mesh.connectivity.end(), nodes.begin(), nodes.begin() + node_count(mesh.kinds.back()));
        for (std::size_t i = 0; i < n; ++i) {
            if (element.segment[i] < 0) continue;
            const auto& s = segments[static_cast<std::size_t>(element.segment[i])];
            // On an edge with material on both sides, the element on its left has it.
            if (s.edge < 0 || element.v[i] != s.from) continue;
            mesh.boundary.push_back({{nodes[i], nodes[(i + 1) % n], degree == 2 ? nodes[n + i] : -1},
                                     static_cast<int>(e),
                                     static_cast<int>(i),
                                     s.edge});
        }
    }
    mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
    mesh.boundary_names = part.boundary_names;
    mesh.region_names = part.regions;
    for (const auto& p : part.points) mesh.points.push_back({p.name, node_of[static_cast<std::size_t>(p.vertex)]});
    connect(mesh);
    mesh.names_of_edge = names_of_sides(part.edges);
    return mesh;
}

}  // namespace dotsift
