#pragma once
// Part and sizes -> a mesh whose poor elements were improved, and everything that was noticed on the way.

#include "mesh/generate.hpp"
#include "quality/repair.hpp"

namespace dotsift {

struct MadeMesh {
    Mesh mesh;
    std::vector<double> wanted;  ///< size asked for, of each element
    RepairReport repair;
};

/// Meshes the part as the study's [mesh] says and improves elements below the study's [quality] limits. `log` is filled
/// even if a MeshError is thrown.
MadeMesh make_mesh(const Study& study, const Part& part, const Sizing& sizing, MeshingLog& log);

}  // namespace dotsift
