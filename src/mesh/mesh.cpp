#include "mesh/mesh.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numbers>
#include <numeric>

#include "mesh/shape.hpp"
#include "study/diagnostics.hpp"

namespace dotsift {

std::array<Vec2, most_element_nodes> Mesh::positions(std::size_t e) const {
    std::array<Vec2, most_element_nodes> p{};
    const auto list = element(e);
    for (std::size_t i = 0; i < list.size(); ++i) p[i] = nodes[static_cast<std::size_t>(list[i])];
    return p;
}

Vec2 Mesh::centre_of(std::size_t e) const {
    const auto list = element(e);
    const auto corners = static_cast<std::size_t>(corner_count(kinds[e]));
    Vec2 sum;
    for (std::size_t i = 0; i < corners; ++i) sum += nodes[static_cast<std::size_t>(list[i])];
    return sum / static_cast<double>(corners);
}

double Mesh::area_of(std::size_t e) const {
    // Half the boundary integral of x dy - y dx over the straight or parabolic sides; exact. About the first corner:
    // about the origin a small element far from it would lose all its digits.
    const auto p = positions(e);
    const auto corners = static_cast<std::size_t>(corner_count(kinds[e]));
    double twice = 0;
    for (std::size_t s = 0; s < corners; ++s) {
        const Vec2 &a = p[s], &b = p[(s + 1) % corners];
        twice += cross(a - p[0], b - p[0]);
        if (polynomial_degree(kinds[e]) == 2) twice += 4.0 / 3 * cross(p[s + corners] - (a + b) * 0.5, b - a);
    }
    return twice / 2;
}

double Mesh::size_of(std::size_t e) const {
    return std::sqrt(area_of(e) * (corner_count(kinds[e]) == 3 ? 4 / std::numbers::sqrt3 : 1));
}

double Mesh::area() const {
    double sum = 0;
    for (std::size_t e = 0; e < element_count(); ++e) sum += area_of(e);
    return sum;
}

bool Mesh::touches(std::size_t e, const Vec2& point, double near) const {
    const auto list = element(e);
    return std::any_of(list.begin(), list.end(),
                       [&](auto n) { return distance(nodes[static_cast<std::size_t>(n)], point) <= near; });
}

Meant::Meant(const Mesh& mesh, const std::vector<std::string>& patterns) : mesh_(mesh) {
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

void number_slots(Mesh& mesh) {
    mesh.slots = mesh.connectivity;
    mesh.node_of_slot.resize(mesh.nodes.size());
    std::iota(mesh.node_of_slot.begin(), mesh.node_of_slot.end(), 0);
    if (std::all_of(mesh.region.begin(), mesh.region.end(), [&](auto r) { return r == mesh.region.front(); })) return;
    std::vector<std::int32_t> first(mesh.nodes.size(), std::numeric_limits<std::int32_t>::max());
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

void connect(Mesh& mesh) {
    number_slots(mesh);
    mesh.sides = SideTable(mesh);
}

std::int32_t slot_of(const Mesh& mesh, std::size_t e, int node) {
    const auto nodes = mesh.element(e);
    const auto at = std::find(nodes.begin(), nodes.end(), node) - nodes.begin();
    return mesh.slots_of(e)[static_cast<std::size_t>(at)];
}

void put_on_axis(Mesh& mesh, double reach) {
    for (Vec2& p : mesh.nodes)
        if (std::fabs(p[0]) <= reach) p[0] = 0;
}

NodeElements node_elements(const Mesh& mesh) {
    NodeElements out;
    out.first.assign(mesh.nodes.size() + 1, 0);
    for (const auto n : mesh.connectivity) ++out.first[static_cast<std::size_t>(n) + 1];
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n) out.first[n + 1] += out.first[n];
    out.elements.resize(mesh.connectivity.size());
    auto next = out.first;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto n : mesh.element(e))
            out.elements[static_cast<std::size_t>(next[static_cast<std::size_t>(n)]++)] = static_cast<std::int32_t>(e);
    return out;
}

MeshSummary summarise(const Mesh& mesh) {
    MeshSummary s;
    s.nodes = mesh.nodes.size();
    s.elements = mesh.element_count();
    double sum = 0;
    std::size_t judged = 0;
    s.smallest_angle = 180;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto p = mesh.positions(e);
        s.area += mesh.area_of(e);
        const auto corners = std::span(p).first(static_cast<std::size_t>(corner_count(mesh.kinds[e])));
        if (corners.size() == 4) ++s.quadrilaterals;
        const ShapeMeasures m = measure_shape(corners);
        s.smallest_angle = std::min(s.smallest_angle, m.smallest_angle);
        if (mesh.row[e] > 0) continue;  // thin on purpose
        ++judged;
        sum += m.mean_ratio;
        if (m.mean_ratio < s.worst_quality) {
            s.worst_quality = m.mean_ratio;
            s.worst_position = mesh.centre_of(e);
        }
    }
    if (s.elements > 0) {
        s.mean_quality = judged > 0 ? sum / static_cast<double>(judged) : 1;
        s.characteristic_size = std::sqrt(s.area / static_cast<double>(s.elements));
    }
    return s;
}

}  // namespace dotsift
