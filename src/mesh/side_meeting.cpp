#include "mesh/side_meeting.hpp"

#include <algorithm>

namespace dotsift {

namespace {

/// A place on a side by what each of its corners counts.
struct SidePlace {
    std::array<double, most_side_corners> share{};
    double weight = 0;
};

/// The rule's points, and the nodes to which the shares belong.
template <int D>
std::vector<SidePlace> places_on(const MeshIn<D>& mesh, const ElementSide& side) {
    const ElementKind kind = mesh.kinds[static_cast<std::size_t>(side.element)];
    std::vector<SidePlace> out;
    if constexpr (D == 2) {
        for (const auto& q : line_rule()) out.push_back({{1 - q.t, q.t}, q.weight});
    } else {
        const ElementKind corners = of_degree(side_kind(kind, side.side), 1);
        for (const auto& q : tabulated(corners, quadrature(corners, 4))) {
            SidePlace& p = out.emplace_back();
            std::copy_n(q.n.begin(), p.share.size(), p.share.begin());
            p.weight = q.weight;
        }
    }
    return out;
}

/// The normal times the length or area element, where the side's own reference coordinates are `at`.
Vec2 normal_at(ElementKind, std::span<const Vec2> nodes, double t) {
    Vec2 along = nodes[1] - nodes[0];
    if (nodes.size() > 2) along = nodes[0] * (4 * t - 3) + nodes[1] * (4 * t - 1) + nodes[2] * (4 - 8 * t);
    return -turned_left(along);
}
Vec3 normal_at(ElementKind side, std::span<const Vec3> nodes, const Vec2& at) {
    std::array<Vec2, most_side_nodes> dn{};
    shape_derivatives<2>(side, at, std::span(dn).first(nodes.size()));
    Vec3 along, across;
    for (std::size_t i = 0; i < nodes.size(); ++i) {
        along += nodes[i] * dn[i][0];
        across += nodes[i] * dn[i][1];
    }
    return cross(along, across);
}

}  // namespace

template <int D>
std::vector<PointOnSide<D>> points_on_side(const MeshIn<D>& mesh, const ElementSide& side, const ElementSide& beyond) {
    const ElementSide& own = beyond ? beyond : side;
    const auto e = static_cast<std::size_t>(own.element), other = static_cast<std::size_t>(side.element);
    const ElementKind kind = mesh.kinds[e];
    const auto& local = side_nodes(kind, own.side);
    const auto& seen = side_nodes(mesh.kinds[other], side.side);
    const std::size_t corners = D == 2 ? 2 : table_of(kind).side_corners[static_cast<std::size_t>(own.side)];
    // Which corner of the first element's side each of the own ones is.
    std::array<std::size_t, most_side_corners> same{};
    for (std::size_t c = 0; c < corners; ++c)
        while (mesh.element(other)[seen[same[c]]] != mesh.element(e)[local[c]]) ++same[c];
    const auto positions = mesh.positions(e);
    std::array<Vec<D>, most_side_nodes> nodes{};
    for (std::size_t i = 0; i < local.size(); ++i) nodes[i] = positions[local[i]];
    const auto of_side = std::span<const Vec<D>>(nodes).first(local.size());
    std::vector<PointOnSide<D>> out;
    for (const SidePlace& q : places_on(mesh, side)) {
        PointOnSide<D>& p = out.emplace_back();
        if constexpr (D == 2) {
            const double t = q.share[same[1]];
            p.point = evaluate(kind, positions, reference_on_side(kind, own.side, t));
            p.normal = normal_at(kind, of_side, t);
        } else {
            const ElementKind face = side_kind(kind, own.side);
            Vec2 at;
            for (std::size_t c = 0; c < corners; ++c) at += reference_node<2>(face, c) * q.share[same[c]];
            p.point = evaluate<3>(kind, positions, reference_on_side(kind, own.side, at));
            p.normal = normal_at(face, of_side, at);
        }
        const double size = norm(p.normal);
        p.normal = p.normal / size;
        p.weight = q.weight * size;
    }
    return out;
}
template std::vector<PointOnSide<2>> points_on_side<2>(const MeshIn<2>&, const ElementSide&, const ElementSide&);
template std::vector<PointOnSide<3>> points_on_side<3>(const MeshIn<3>&, const ElementSide&, const ElementSide&);

}  // namespace dotsift
