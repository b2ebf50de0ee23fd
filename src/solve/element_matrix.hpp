#pragma once
// Matrices of single elements, and what a solution is inside of them.

#include <vector>

#include "mesh/mesh.hpp"
#include "solve/material/material.hpp"
#include "solve/system/assembly.hpp"

namespace dotsift {

/// The strain zz = e + (x - centre) . tilt of ends that stay plane (generalised plane strain); nothing in other states.
struct AxialStrain {
    double e = 0;
    Vec2 tilt{}, centre{};
    [[nodiscard]] double at(const Vec2& p) const { return e + dot(p - centre, tilt); }
};

/// The rule by which the matrices and the forces of an element are integrated.
std::span<const ShapePoint> integration_points(const Mesh& mesh, const Laws& laws, std::size_t element,
                                               std::span<const Vec2> positions);

/// Stiffness, times a factor that is given at the slots (empty: 1). In generalised plane strain three more rows and
/// columns: e, and the tilt times `arm` about `centre`.
void elastic_matrix(const Mesh& mesh, const Laws& laws, const std::vector<double>& factor, std::size_t element,
                    const Vec2& centre, double arm, ElementMatrix& matrix);
/// The same of the potential's equation.
void conduction_matrix(const Mesh& mesh, const Laws& laws, const std::vector<double>& factor, std::size_t element,
                       ElementMatrix& matrix);

/// Strain at a point of an element.
Strain strain_at(const Mesh& mesh, Plane plane, const std::vector<Vec2>& displacement, const AxialStrain& axial,
                 std::size_t element, const ElementPoint& point);
Strain3 strain_at(const SolidMesh& mesh, const std::vector<Vec3>& displacement, std::size_t element,
                  const ElementPointIn<3>& point);

/// A field of one number at each slot (see Topology), at a point of an element; 0 if the field is empty.
template <int D>
double slot_value(const MeshIn<D>& mesh, const std::vector<double>& slots, std::size_t element,
                  const ElementPointIn<D>& point);
template <int D>
Vec<D> slot_gradient(const MeshIn<D>& mesh, const std::vector<double>& slots, std::size_t element,
                     const ElementPointIn<D>& point);

}  // namespace dotsift
