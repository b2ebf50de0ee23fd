#include "mesh/side_views.hpp"

#include <algorithm>

namespace dotsift {

int element_beyond(const Mesh& mesh, const NodeElements& around, const BoundarySide& side) {
    for (const auto e : around.of(static_cast<std::size_t>(side.nodes[0]))) {
        if (e == side.element) continue;
        const auto nodes = mesh.element(static_cast<std::size_t>(e));
        if (std::find(nodes.begin(), nodes.end(), side.nodes[1]) != nodes.end()) return e;
    }
    return -1;
}

std::vector<SideView> side_views(const Mesh& mesh, const std::vector<std::string>& on,
                                 const std::vector<std::string>& inside) {
    std::vector<SideView> out;
    const NodeElements around = node_elements(mesh);
    const auto counts = [&](int e) {
        return e >= 0 && (inside.empty() || mesh.region_fits(static_cast<std::size_t>(e), inside));
    };
    for (std::size_t k = 0; k < mesh.boundary.size(); ++k) {
        const BoundarySide& side = mesh.boundary[k];
        if (!mesh.side_fits(side, on)) continue;
        const int beyond = element_beyond(mesh, around, side);
        const bool own = counts(side.element), other = counts(beyond);
        const double share = own && other ? 0.5 : 1;
        if (own) out.push_back({k, static_cast<std::size_t>(side.element), side.side, true, share});
        if (!other) continue;
        const auto e = static_cast<std::size_t>(beyond);
        const auto nodes = mesh.element(e);
        for (int s = 0; s < corner_count(mesh.kinds[e]); ++s)
            if (nodes[static_cast<std::size_t>(side_nodes(mesh.kinds[e], s)[0])] == side.nodes[1])
                out.push_back({k, e, s, false, share});
    }
    return out;
}

}  // namespace dotsift
