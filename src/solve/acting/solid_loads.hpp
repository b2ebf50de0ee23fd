#pragma once
// The loads of a study as forces at a solid's degrees of freedom.

#include "mesh/mesh.hpp"
#include "solve/material/solid_law.hpp"
#include "solve/solution.hpp"
#include "solve/system/field_layout.hpp"
#include "study/study.hpp"

namespace dotsift {

struct SolidLoads {
    std::vector<std::vector<double>> force;      ///< of each case, at each degree of freedom
    std::vector<std::vector<LoadTotal>> totals;  ///< of each case and load
};

/// Forces of the mechanical loads, or flows of those of the potential; consistent with the shape functions. Throws
/// InputError if a formula gives no number, or a region under gravity has no density.
SolidLoads solid_forces(const SolidMesh& mesh, const Study& study, const FieldLayout& layout,
                        const std::vector<CaseSpec>& cases);
SolidLoads solid_flows(const SolidMesh& mesh, const Study& study, const FieldLayout& layout,
                       const std::vector<CaseSpec>& cases);

}  // namespace dotsift
