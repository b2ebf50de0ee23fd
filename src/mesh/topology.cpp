#include "mesh/topology.hpp"

#include <algorithm>
#include <limits>
#include <map>
#include <numeric>

#include "study/diagnostics.hpp"

namespace dotsift {

int dimension_of(const Topology& mesh) {
    return std::any_of(mesh.kinds.begin(), mesh.kinds.end(), [](ElementKind k) { return dimension_of(k) == 3; }) ? 3
                                                                                                                 : 2;
}

Meant::Meant(const Topology& mesh, const std::vector<std::string>& patterns) : mesh_(mesh) {
    std::vector<char> boundary;
    for (const auto& name : mesh.boundary_names) boundary.push_back(fits_any(name, patterns));
    for (const auto& names : mesh.names_of_edge)
        edge_.push_back(
            std::any_of(names.begin(), names.end(), [&](int n) { return boundary[static_cast<std::size_t>(n)] != 0; }));
    for (const auto& name : mesh.region_names) region_.push_back(fits_any(name, patterns));
}

bool Meant::any_region() const {
    return std::any_of(region_.begin(), region_.end(), [](char fits) { return fits != 0; });
}

void number_slots(Topology& mesh, std::size_t nodes) {
    mesh.slots = mesh.connectivity;
    mesh.node_of_slot.resize(nodes);
    std::iota(mesh.node_of_slot.begin(), mesh.node_of_slot.end(), 0);
    if (std::all_of(mesh.region.begin(), mesh.region.end(), [&](auto r) { return r == mesh.region.front(); })) return;
    std::vector<std::int32_t> first(nodes, std::numeric_limits<std::int32_t>::max());
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto n : mesh.element(e))
            first[static_cast<std::size_t>(n)] = std::min(first[static_cast<std::size_t>(n)], mesh.region[e]);
    std::map<std::pair<std::int32_t, std::int32_t>, std::int32_t> further;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (std::int64_t k = mesh.first[e]; k < mesh.first[e + 1]; ++k) {
            const auto n = mesh.connectivity[static_cast<std::size_t>(k)];
            if (first[static_cast<std::size_t>(n)] == mesh.region[e]) continue;
            const auto [found, fresh] =
                further.try_emplace({n, mesh.region[e]}, static_cast<std::int32_t>(mesh.node_of_slot.size()));
            if (fresh) mesh.node_of_slot.push_back(n);
            mesh.slots[static_cast<std::size_t>(k)] = found->second;
        }
}

void connect(Topology& mesh, std::size_t nodes) {
    number_slots(mesh, nodes);
    mesh.sides = SideTable(mesh, nodes);
}

std::int32_t slot_of(const Topology& mesh, std::size_t e, int node) {
    const auto list = mesh.element(e);
    const auto at = std::find(list.begin(), list.end(), node) - list.begin();
    return mesh.slots_of(e)[static_cast<std::size_t>(at)];
}

NodeElements node_elements(const Topology& mesh, std::size_t nodes) {
    NodeElements out;
    out.first.assign(nodes + 1, 0);
    for (const auto n : mesh.connectivity) ++out.first[static_cast<std::size_t>(n) + 1];
    for (std::size_t n = 0; n < nodes; ++n) out.first[n + 1] += out.first[n];
    out.elements.resize(mesh.connectivity.size());
    auto next = out.first;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto n : mesh.element(e))
            out.elements[static_cast<std::size_t>(next[static_cast<std::size_t>(n)]++)] = static_cast<std::int32_t>(e);
    return out;
}

}  // namespace dotsift
