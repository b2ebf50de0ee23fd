#pragma once
// Foundations, transfer and resistances -> springs between degrees of freedom.

#include <vector>

#include "mesh/mesh.hpp"
#include "solve/material/material.hpp"
#include "solve/system/assembly.hpp"
#include "study/study.hpp"

namespace dotsift {

/// A joint that belongs to a support (its reaction) or a load.
struct SourcedJoint {
    Joint joint;
    int support = -1;
    int load = -1;  ///< counted among the loads of the potential
};
/// Elastic foundations.
std::vector<SourcedJoint> foundations(const Mesh& mesh, const Study& study, const Laws& laws);
/// Transfer to the surroundings, and resistance between regions.
std::vector<SourcedJoint> transfers(const Mesh& mesh, const Study& study, const Laws& laws);

}  // namespace dotsift
