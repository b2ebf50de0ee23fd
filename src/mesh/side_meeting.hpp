#pragma once
// Points on the side that two elements share, as both have them.

#include <vector>

#include "mesh/mesh.hpp"

namespace dotsift {

/// Each pair of elements that share a side, in the order of the first one's elements and sides.
template <class Act>
void each_pair(const Topology& mesh, Act act) {
    for (std::size_t k = 0; k < mesh.sides.count(); ++k)
        if (const auto& [first, second] = mesh.sides.beside(k); second) act(first, second);
}

/// A point of a rule of integration over a side, in one of its elements.
template <int D>
struct PointOnSide {
    ElementPointIn<D> point;
    Vec<D> normal;      ///< outward unit normal
    double weight = 0;  ///< of the rule times the length or area element
};

/// Five Gauss points on a side in the plane, a rule of degree 4 in space. With `beyond`, the element on the other side,
/// they are those of that element at the same places, in the same order, with its own normals.
template <int D>
std::vector<PointOnSide<D>> points_on_side(const MeshIn<D>& mesh, const ElementSide& side,
                                           const ElementSide& beyond = {});

}  // namespace dotsift
