#pragma once
// Tetrahedra of bodies -> mesh: nodes on edges, an order that keeps neighbours close in memory, the part's names.

#include "mesh/mesh.hpp"
#include "mesh/solid/body_mesh.hpp"

namespace dotsift {

/// Elements of polynomial degree 1 or 2. Nodes in the middle of edges lie on the part's edges and faces where the edge
/// does. `bodies` are compact, and `point` is the new number of each point of the surface (-1: gone).
SolidMesh assemble_solid(const SolidPart& part, const BodyMesh& bodies, const std::vector<EdgePiece>& pieces,
                         const std::vector<std::int32_t>& point, int degree);

/// Edges of elements that curved faces would spoil, though with straight edges they are sound.
void find_bent(const SolidPart& part, const SolidMesh& mesh, CoarsePlaces& coarse);

/// Puts the middle nodes of such edges halfway between their ends. Returns how many, and leaves one of them in `at`.
std::size_t straighten_bent(SolidMesh& mesh, Vec3& at);

}  // namespace dotsift
