#include "evidence/report/error_shares.hpp"

#include <algorithm>

namespace dotsift {

std::vector<ErrorShare> error_shares(const LevelFields& fields) {
    const Mesh& mesh = fields.mesh;
    const auto& error2 = fields.error.element_error2;
    std::vector<ErrorShare> list;
    if (!(fields.error.error2 > 0)) return list;
    std::vector<double> of_region(mesh.region_names.size(), 0.0);
    for (std::size_t e = 0; e < error2.size(); ++e) of_region[static_cast<std::size_t>(mesh.region[e])] += error2[e];
    for (std::size_t r = 0; r < of_region.size(); ++r)
        list.push_back({false, mesh.region_names[r], of_region[r] / fields.error.error2});
    for (const auto& name : mesh.boundary_names) {
        std::vector<char> on(mesh.nodes.size(), 0);
        const Meant meant(mesh, {name});
        for (const auto& side : mesh.boundary)
            if (meant.side(side))
                for (std::size_t i = 0; i < side.count(); ++i) on[static_cast<std::size_t>(side.nodes[i])] = 1;
        double sum = 0;
        for (std::size_t e = 0; e < error2.size(); ++e) {
            const auto nodes = mesh.element(e);
            if (std::any_of(nodes.begin(), nodes.end(), [&](auto n) { return on[static_cast<std::size_t>(n)]; }))
                sum += error2[e];
        }
        list.push_back({true, name, sum / fields.error.error2});
    }
    return list;
}

}  // namespace dotsift
