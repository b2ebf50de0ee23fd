#pragma once
// Loads -> forces and flows at the degrees of freedom, in every case.

#include <vector>

#include "mesh/mesh.hpp"
#include "solve/material/solid_law.hpp"
#include "solve/solution.hpp"
#include "study/study.hpp"

namespace dotsift {

struct NodalLoads {
    std::vector<std::vector<double>> force;      ///< of each case, at each degree of freedom
    std::vector<std::vector<LoadTotal>> totals;  ///< of each case
    std::vector<std::vector<Vec2>> inner;  ///< of each case, on the bubble of each element (see volume_strain.hpp);
                                           ///< empty where there is none
};

/// Consistent forces at the degrees of freedom of displacement_layout, integrated with five Gauss points a side and,
/// in the volume, to degree 6. Throws InputError if a formula gives no number or a spread integrates to zero.
NodalLoads nodal_forces(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<CaseSpec>& cases);
/// Flows at the slots.
NodalLoads nodal_flows(const Mesh& mesh, const Study& study, const Laws& laws, const std::vector<CaseSpec>& cases);

/// Of a solid, at the degrees of freedom of a layout: forces of three components, flows of one.
NodalLoads nodal_loads(const SolidMesh& mesh, const Study& study, const SolidLaws& laws, const FieldLayout& layout,
                       const std::vector<CaseSpec>& cases);

}  // namespace dotsift
