#include "evidence/report/error_shares.hpp"

#include <algorithm>

namespace dotsift {

std::vector<ErrorShare> error_shares(const Topology& mesh, const ErrorMap& error) {
    const auto& error2 = error.element_error2;
    std::vector<ErrorShare> list;
    if (!(error.error2 > 0)) return list;
    const auto nodes =
        static_cast<std::size_t>(1 + *std::max_element(mesh.connectivity.begin(), mesh.connectivity.end()));
    std::vector<double> of_region(mesh.region_names.size(), 0.0);
    for (std::size_t e = 0; e < error2.size(); ++e) of_region[static_cast<std::size_t>(mesh.region[e])] += error2[e];
    for (std::size_t r = 0; r < of_region.size(); ++r)
        list.push_back({false, mesh.region_names[r], of_region[r] / error.error2});
    for (const auto& name : mesh.boundary_names) {
        std::vector<char> on(nodes, 0);
        const Meant meant(mesh, {name});
        for (const auto& side : mesh.boundary)
            if (meant.side(side))
                for (const auto local : side_nodes(mesh.kinds[static_cast<std::size_t>(side.element)], side.side))
                    on[static_cast<std::size_t>(mesh.element(static_cast<std::size_t>(side.element))[local])] = 1;
        double sum = 0;
        for (std::size_t e = 0; e < error2.size(); ++e) {
            const auto own = mesh.element(e);
            if (std::any_of(own.begin(), own.end(), [&](auto n) { return on[static_cast<std::size_t>(n)]; }))
                sum += error2[e];
        }
        list.push_back({true, name, sum / error.error2});
    }
    return list;
}

}  // namespace dotsift
