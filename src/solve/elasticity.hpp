#pragma once
// Mesh, supports, loads and material -> displacements.

#include <memory>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/linear_solver.hpp"
#include "solve/loads.hpp"
#include "solve/material.hpp"
#include "study/study.hpp"

namespace dotsift {

struct SupportReaction {
    std::string name;
    Vec2 force{};       ///< what the support does to the part
    double moment = 0;  ///< about the origin
};

/// Sums of everything that acts on the part; each should vanish.
struct LoadBalance {
    Vec2 applied{}, reaction{};
    double applied_moment = 0, reaction_moment = 0;
    /// The largest of the three sums, relative to the sum of the magnitudes of all nodal forces (times the part's size
    /// for the moment).
    double relative_error = 0;
    double magnitude = 0;  ///< the sum of the magnitudes of all nodal forces, applied and reacting
};

struct Solution {
    std::vector<Vec2> displacement;  ///< at each node
    double strain_energy = 0;
    std::vector<LoadTotal> loads;
    std::vector<SupportReaction> reactions;  ///< in the order of the study's supports
    LoadBalance balance;
    std::int64_t unknowns = 0;
    SolverReport solver;
};

/// Linear elasticity in the plane. Throws SolveError, InputError (see node_freedoms and nodal_loads).
///
///     Solution solution = solve_elasticity(mesh, study);
Solution solve_elasticity(const Mesh& mesh, const Study& study);

/// Strain (xx, yy, engineering xy) at a point of an element.
Plane3 strain_at(const Mesh& mesh, const std::vector<Vec2>& displacement, std::size_t element,
                 const ElementPoint& point);

}  // namespace dotsift
