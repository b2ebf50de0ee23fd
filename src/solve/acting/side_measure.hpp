#pragma once
// Integrals over the sides of a mesh, asked for alike in the plane and in space.

#include <functional>

#include "mesh/mesh.hpp"
#include "solve/acting/side_geometry.hpp"
#include "solve/acting/solid_sides.hpp"
#include "solve/material/material.hpp"
#include "solve/material/solid_law.hpp"

namespace dotsift {

template <int D>
using SidePointIn = std::conditional_t<D == 2, SidePoint, SolidSidePoint>;

/// The points of a side by which loads are integrated: five Gauss points, or a rule of degree 6 in space.
inline auto load_points(const Mesh& mesh, const BoundarySide& side) {
    return side_points(mesh, side);
}
inline auto load_points(const SolidMesh& mesh, const BoundarySide& side) {
    return solid_side_points(mesh, side, 6);
}

/// The area that a point stands for.
inline double area_at(const Mesh& mesh, const Laws& laws, const BoundarySide& side, const SidePoint& p) {
    return p.length * laws.depth(mesh.region[static_cast<std::size_t>(side.element)], p.position);
}
inline double area_at(const SolidMesh&, const SolidLaws&, const BoundarySide&, const SolidSidePoint& p) {
    return p.area;
}

/// The names that a formula of a place has.
template <int D>
const std::vector<std::string>& names_of_place() {
    return D == 2 ? place_names() : space_names();
}
/// The origin of r and theta, as a place in the plane or on the axis along z.
template <int D>
Vec<D> origin_of(const Vec2& about) {
    if constexpr (D == 2)
        return about;
    else
        return in_space(about);
}

/// A node or slot of a side, in the order of its shape values: the i-th entry of `numbers`, the mesh's connectivity or
/// its slots.
inline std::int32_t number_on_side(const Topology& mesh, std::span<const std::int32_t> numbers, std::int32_t element,
                                   std::int32_t side, std::size_t i) {
    const auto e = static_cast<std::size_t>(element);
    return numbers[static_cast<std::size_t>(mesh.first[e]) + side_nodes(mesh.kinds[e], side)[i]];
}
inline std::size_t count_on_side(const Topology& mesh, const BoundarySide& side) {
    return side_nodes(mesh.kinds[static_cast<std::size_t>(side.element)], side.side).size();
}

/// The node nearest to a place; the mesh has one at every corner and named point.
template <int D>
std::size_t nearest_node(const MeshIn<D>& mesh, const Vec<D>& p) {
    std::size_t nearest = 0;
    for (std::size_t n = 1; n < mesh.nodes.size(); ++n)
        if (distance(mesh.nodes[n], p) < distance(mesh.nodes[nearest], p)) nearest = n;
    return nearest;
}

/// A place of the study, in the dimension of a mesh.
template <int D>
Vec<D> place_in_mesh(const Vec3& p) {
    if constexpr (D == 2)
        return in_plane(p);
    else
        return p;
}

}  // namespace dotsift
