#include "evidence/facet_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <map>

namespace dotsift {

FacetText facets_of(const SolidMesh& mesh) {
    FacetText out;
    std::map<std::vector<int>, std::string> solids;
    for (const auto& b : mesh.boundary) {
        const auto element = static_cast<std::size_t>(b.element);
        if (mesh.sides.beyond(element, b.side).element >= 0) continue;
        const auto& local = side_nodes(mesh.kinds[element], b.side);
        const auto node = [&](std::size_t k) -> const Vec3& {
            return mesh.nodes[static_cast<std::size_t>(mesh.element(element)[local[k]])];
        };
        const std::array<Vec3, 3> x{node(0), node(1), node(2)};
        Vec3 middle;
        for (std::size_t k = 0; k < 3; ++k) {
            out.deviation = std::max(out.deviation, distance(node(3 + k), (x[k] + x[(k + 1) % 3]) * 0.5));
            middle += node(3 + k) * (4.0 / 9) - x[k] / 9;  // of the quadratic triangle
        }
        out.deviation = std::max(out.deviation, distance(middle, (x[0] + x[1] + x[2]) / 3));
        const Vec3 n = cross(x[1] - x[0], x[2] - x[0]), unit = n / norm(n);
        std::string& text = solids[mesh.names_of_edge[static_cast<std::size_t>(b.edge)]];
        fmt::format_to(std::back_inserter(text), "facet normal {:.6g} {:.6g} {:.6g}\nouter loop\n", unit[0], unit[1],
                       unit[2]);
        for (const Vec3& p : x) fmt::format_to(std::back_inserter(text), "vertex {} {} {}\n", p[0], p[1], p[2]);
        text += "endloop\nendfacet\n";
        ++out.count;
    }
    for (const auto& [names, text] : solids) {
        std::string name;
        for (const int n : names) {
            if (!name.empty()) name += '+';
            name += mesh.boundary_names[static_cast<std::size_t>(n)];
        }
        fmt::format_to(std::back_inserter(out.text), "solid {0}\n{1}endsolid {0}\n", name, text);
    }
    return out;
}

}  // namespace dotsift
