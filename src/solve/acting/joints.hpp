#pragma once
// Foundations, transfer and resistances -> springs between degrees of freedom.

#include <vector>

#include "mesh/mesh.hpp"
#include "solve/material/solid_law.hpp"
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
template <int D>
std::vector<SourcedJoint> foundations(const MeshIn<D>& mesh, const Study& study, const LawsIn<D>& laws);
/// Transfer to the surroundings, and resistance between regions.
template <int D>
std::vector<SourcedJoint> transfers(const MeshIn<D>& mesh, const Study& study, const LawsIn<D>& laws);

std::vector<Joint> bare(const std::vector<SourcedJoint>& joints);

}  // namespace dotsift
