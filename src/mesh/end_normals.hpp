#pragma once
// Normals of the part's curves at the nodes of a mesh's boundary.

#include <array>
#include <vector>

#include "mesh/mesh.hpp"
#include "part/solid/solid_part.hpp"

namespace dotsift {

/// For each side of the mesh's boundary the unit normals of the part's curve at its start, end and middle, pointing
/// away from the material on the side's left. Chords of a coarse mesh turn from one to the next; the curve does not.
std::vector<std::array<Vec2, 3>> end_normals(const Part& part, const Mesh& mesh);

/// Of a solid: those of the face's surface at the nodes of each side, in the order of side_nodes, away from the element
/// that has it.
std::vector<std::array<Vec3, most_side_nodes>> end_normals(const SolidPart& part, const SolidMesh& mesh);

}  // namespace dotsift
