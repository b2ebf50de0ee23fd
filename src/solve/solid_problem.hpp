#pragma once
// The equations of a field over a mesh of solids.

#include <functional>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/field_problem.hpp"
#include "solve/material/solid_law.hpp"

namespace dotsift {

/// Equations between degrees of freedom, for whatever mesh of the part they are asked for.
using SolidRows = std::function<std::vector<ConstraintRow>(const SolidMesh& mesh)>;

/// Springs between them, and which interfaces resist.
struct SolidTies {
    std::function<std::vector<SourcedJoint>(const SolidMesh& mesh)> joints;
    std::vector<ResistanceSpec> resistances;
};

/// Three displacements at each node. Rows that contradict each other throw InputError. Mesh and laws must outlive it.
/// `contradicted` may tell in better words which, and must throw. `factor`: of the stiffness or the conductivity at
/// each slot, read when elements are asked for; null or empty: 1.
using Contradicted = std::function<void(const ConstraintRow& row, const ConstraintRow& earlier)>;
FieldProblem solid_displacement(const SolidMesh& mesh, const SolidLaws& laws, const SolidRows& rows,
                                std::size_t cases = 1, const Contradicted& contradicted = {},
                                const SolidTies& ties = {}, const std::vector<double>* factor = nullptr);
/// A potential at each slot, the same at all slots of a node but where an interface resists.
FieldProblem solid_potential(const SolidMesh& mesh, const SolidLaws& laws, const SolidRows& rows, std::size_t cases = 1,
                             const Contradicted& contradicted = {}, const SolidTies& ties = {},
                             const std::vector<double>* factor = nullptr);

/// Forces on the degrees of freedom that a density in the volume makes: one number a component, at a place of an
/// element. `acts` tells in which elements. Integrated to degree 6.
std::vector<double> solid_body_forces(
    const SolidMesh& mesh, const FieldLayout& layout,
    const std::function<void(std::size_t element, const Vec3& place, std::span<double> density)>& density,
    const std::function<bool(std::size_t element)>& acts);
/// The same everywhere.
std::vector<double> solid_body_forces(const SolidMesh& mesh, const FieldLayout& layout,
                                      const std::function<void(const Vec3& place, std::span<double> density)>& density);

}  // namespace dotsift
