#pragma once
// Loads -> forces at the nodes.

#include <vector>

#include "mesh/mesh.hpp"
#include "study/study.hpp"

namespace dotsift {

struct LoadTotal {
    std::string name;
    Vec2 force{};
    double moment = 0;         ///< about the origin, anticlockwise
    double boundary_area = 0;  ///< length times thickness of where it acts
};

struct NodalLoads {
    std::vector<Vec2> force;  ///< at each node
    std::vector<LoadTotal> totals;
};

/// Consistent nodal forces, integrated with five Gauss points a side. Throws InputError if a formula gives no number
/// or a spread integrates to zero.
NodalLoads nodal_loads(const Mesh& mesh, const Study& study);

}  // namespace dotsift
