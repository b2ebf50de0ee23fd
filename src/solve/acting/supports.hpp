#pragma once
// Supports and ties -> equations between degrees of freedom.

#include <string>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/acting/mean_motion.hpp"
#include "solve/system/assembly.hpp"
#include "solve/system/constraints.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Degrees of freedom of the displacement: two at each node, three shared ones in generalised plane strain, three of
/// each remote point. Turns are multiplied by `arm`, so that all are lengths.
FieldLayout displacement_layout(const Mesh& mesh, const Study& study);
/// Of the potential: one at each slot.
FieldLayout potential_layout(const Mesh& mesh);

/// The size of the mesh, by which turns are scaled.
double arm_of(const Mesh& mesh);
/// The first of the three degrees of freedom of a remote point.
std::int32_t remote_dof(const FieldLayout& layout, std::size_t remote);

/// Sources of equations are numbered: the supports, then the periodic pairs, then the remote points.
std::string source_name(const Study& study, int source);

std::vector<ConstraintRow> displacement_rows(const Mesh& mesh, const Study& study, const std::vector<CaseSpec>& cases);
std::vector<ConstraintRow> potential_rows(const Mesh& mesh, const Study& study, const std::vector<CaseSpec>& cases);

/// Eliminates; throws InputError naming the two that contradict each other, and where.
Constraints constraints_of(const FieldLayout& layout, const std::vector<ConstraintRow>& rows, std::size_t cases,
                           const Mesh& mesh, const Study& study);

}  // namespace dotsift
