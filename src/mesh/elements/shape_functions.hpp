#pragma once
// Shape functions of all element kinds, and the places of their nodes in reference coordinates.

#include <span>
#include <type_traits>

#include "base/vec.hpp"
#include "mesh/elements/element_kind.hpp"

namespace dotsift {

/// Reference coordinates of a node, a corner among them, and of the element's middle (its centroid). D is the kind's
/// own dimension, here and below.
template <int D = 2>
Vec<D> reference_node(ElementKind kind, std::size_t node);
template <int D = 2>
Vec<D> reference_middle(ElementKind kind);
inline Vec2 reference_corner(ElementKind kind, int corner) {
    return reference_node(kind, static_cast<std::size_t>(corner));
}
/// The reference point at the share t of a side, in the plane.
Vec2 reference_on_side(ElementKind kind, int side, double t);
/// The reference point of a solid where its side, an element of the plane, has these reference coordinates.
Vec3 reference_on_side(ElementKind kind, int side, const Vec2& at);
/// How far a reference point lies outside its element; 0 or less inside.
template <int D>
double reference_outside(ElementKind kind, const Vec<D>& xi);

/// The reference element of the plane cut into triangles (one or two), for work that is done on triangles.
std::span<const std::array<Vec2, 3>> reference_triangles(ElementKind kind);

/// Values of the shape functions at a reference point. Of pyramids they are rational: those of 5 nodes after Bedrosian
/// 1992, Int. J. Numer. Meth. Eng. 35; those of 14 span the optimal space of degree 2 of Bergot, Cohen & Durufle 2010,
/// J. Sci. Comput. 42: with x = u r, y = v r, z = 1 - r the products of r^2 with the biquadratic, of r with the
/// bilinear polynomials of u and v, and 1.
template <int D>
void shape_values(ElementKind kind, const Vec<D>& xi, std::span<double> n);
/// Derivatives with respect to the reference coordinates; at the tip of a pyramid, where they depend on the way there,
/// those along its axis.
template <int D>
void shape_derivatives(ElementKind kind, const Vec<D>& xi, std::type_identity_t<std::span<Vec<D>>> dn);

}  // namespace dotsift
