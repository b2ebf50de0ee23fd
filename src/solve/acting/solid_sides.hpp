#pragma once
// Loads and supports on the sides of solids, as densities over their area and as equations of their nodes.

#include <functional>
#include <span>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/system/constraints.hpp"
#include "solve/system/field_layout.hpp"

namespace dotsift {

/// A quadrature point on a side.
struct SolidSidePoint {
    std::array<double, most_side_nodes> n{};  ///< shape values of the side's nodes, in the order of side_nodes
    Vec3 position, normal;                    ///< outward unit normal
    double area = 0;                          ///< weight times area element
};

/// Points that integrate polynomials up to `degree` (at most 6) over a flat side.
std::vector<SolidSidePoint> solid_side_points(const SolidMesh& mesh, const BoundarySide& side, int degree);

/// What a load brings per area at a place with this outward normal: one number a component.
using SideDensity = std::function<void(const Vec3& place, const Vec3& normal, std::span<double> density)>;

/// Forces on the degrees of freedom, consistent with the shape functions; `acts` tells on which sides. Integrated to
/// degree 6.
std::vector<double> solid_side_forces(const SolidMesh& mesh, const FieldLayout& layout,
                                      const std::function<bool(const BoundarySide&)>& acts, const SideDensity& density);

/// Equations that give the components of every node of some sides values that depend on the place. Components whose
/// value is NaN stay free.
std::vector<ConstraintRow> solid_side_rows(const SolidMesh& mesh, int components,
                                           const std::function<bool(const BoundarySide&)>& on,
                                           const std::function<void(const Vec3& place, std::span<double> value)>& value,
                                           int source = 0);

}  // namespace dotsift
