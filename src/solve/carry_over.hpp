#pragma once
// Fields from one mesh of a part to another.

#include <array>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/material/tensor.hpp"

namespace dotsift {

/// How a field is carried.
enum class CarryRule {
    consistent,   ///< its value at each place: fields that both meshes contain come over unchanged
    bounded,      ///< the same, held between the values at the nodes of the element that it comes from
    conservative  ///< then shifted in each region so that its integral stays
};

/// What the slots (see Mesh) of `to` get from those of `from`, which has the same regions. Slots lie in their own
/// region on both meshes; places outside of `from`, which curved outlines make possible, take
/// the nearest element. Integrals are over the area.
std::vector<double> carry_slots(const Mesh& from, const std::vector<double>& values, const Mesh& to, CarryRule rule);
/// The same, consistent, of values at nodes, which do not jump between regions.
std::vector<Vec2> carry_nodes(const Mesh& from, const std::vector<Vec2>& values, const Mesh& to);

/// The same, consistent, of vectors and stresses.
std::vector<Vec2> carry_slots(const Mesh& from, const std::vector<Vec2>& values, const Mesh& to);
std::vector<Stress> carry_slots(const Mesh& from, const std::vector<Stress>& values, const Mesh& to);

/// The same in space; integrals are over the volume.
std::vector<double> carry_slots(const SolidMesh& from, const std::vector<double>& values, const SolidMesh& to,
                                CarryRule rule);
std::vector<Vec3> carry_nodes(const SolidMesh& from, const std::vector<Vec3>& values, const SolidMesh& to);

/// The integral over each region.
std::vector<double> integrals_by_region(const Mesh& mesh, const std::vector<double>& slots);
std::vector<double> integrals_by_region(const SolidMesh& mesh, const std::vector<double>& slots);

}  // namespace dotsift
