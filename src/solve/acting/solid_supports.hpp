#pragma once
// The supports of a study as equations of a solid's nodes.

#include "mesh/mesh.hpp"
#include "solve/system/constraints.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Of three displacements at each node, with a value for each case. Where faces meet in an edge, a node is held across
/// each of them. Throws InputError if a formula gives no number.
std::vector<ConstraintRow> solid_displacement_rows(const SolidMesh& mesh, const Study& study,
                                                   const std::vector<CaseSpec>& cases);
/// Of a potential at each slot.
std::vector<ConstraintRow> solid_potential_rows(const SolidMesh& mesh, const Study& study,
                                                const std::vector<CaseSpec>& cases);

}  // namespace dotsift
