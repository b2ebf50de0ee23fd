#pragma once
// Part and sizes -> a mesh whose poor elements were improved, and everything that was noticed on the way.

#include "mesh/plane/generate.hpp"
#include "mesh/plane/remesh.hpp"
#include "part/solid/solid_part.hpp"
#include "quality/repair.hpp"

namespace dotsift {

template <int D>
struct MadeMeshIn {
    MeshIn<D> mesh;
    std::vector<double> wanted;  ///< size asked for, of each element
    RepairReport repair;
};
using MadeMesh = MadeMeshIn<2>;

/// What the solver needs beside nodes and elements: nodes exactly on the axis of revolution, and the normals of the
/// part's curves.
void ready_for_solving(const Study& study, const Part& part, Mesh& mesh);

/// Meshes the part as the study's [mesh] says and improves elements below the study's [quality] limits. `log` is filled
/// even if a MeshError is thrown.
MadeMesh make_mesh(const Study& study, const Part& part, const Sizing& sizing, MeshingLog& log);
/// The mesher of solids improves its elements as it makes them.
MadeMeshIn<3> make_mesh(const Study& study, const SolidPart& part, const SizingIn<3>& sizing, MeshingLog& log);

/// The elements of `old` whose flag is set made anew (see remesh) and improved, all the rest as it was. Where smaller
/// sizes are asked for than `old_wanted`, what was finer than that stays as fine. `old_wanted` may be empty: not known.
MadeMesh remake_mesh(const Study& study, const Part& part, const Mesh& old, const std::vector<double>& old_wanted,
                     const std::vector<char>& anew, const SizeField& asked, RemeshCounts& counts);

}  // namespace dotsift
