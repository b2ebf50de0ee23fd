#pragma once
// Elements: shape functions in place, and where a point lies in them.

#include <array>
#include <span>

#include "base/vec.hpp"
#include "mesh/elements/element_kind.hpp"
#include "mesh/elements/quadrature.hpp"
#include "mesh/elements/shape_functions.hpp"

namespace dotsift {

/// Everything at one reference point of one element, whose dimension is that of the space.
template <int D>
struct ElementPointIn {
    std::array<double, most_nodes<D>> n{};   ///< shape values
    std::array<Vec<D>, most_nodes<D>> dn{};  ///< derivatives by x, y (and z)
    Vec<D> position;
    double jacobian = 0;  ///< determinant
};
using ElementPoint = ElementPointIn<2>;

/// `nodes` are the element's node positions.
template <int D>
ElementPointIn<D> evaluate(ElementKind kind, std::type_identity_t<std::span<const Vec<D>>> nodes, const Vec<D>& xi);
template <int D>
ElementPointIn<D> evaluate(ElementKind kind, std::type_identity_t<std::span<const Vec<D>>> nodes,
                           const ShapePointIn<D>& at);

/// Nodes between corners lie in their middle.
bool is_straight(ElementKind kind, std::span<const Vec2> nodes);
bool is_straight(ElementKind kind, std::span<const Vec3> nodes);

/// Reference coordinates of a point, by Newton's method from the centre; the result may lie outside the element.
/// `converged` is false if the element is too distorted there.
template <int D>
Vec<D> reference_point(ElementKind kind, std::type_identity_t<std::span<const Vec<D>>> nodes, const Vec<D>& position,
                       bool& converged);

}  // namespace dotsift
