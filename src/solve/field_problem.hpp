#pragma once
// All equations of one field (displacement or potential) over one mesh, as plain data.

#include <functional>
#include <memory>
#include <vector>

#include "base/errors.hpp"
#include "solve/acting/joints.hpp"
#include "solve/acting/supports.hpp"
#include "solve/element_matrix.hpp"
#include "solve/system/assembly.hpp"

namespace dotsift {

struct ProblemOnCorners;

/// What assembly and solvers need, in the plane and in space. Refers to everything that it was made of, which must
/// outlive it.
struct FieldProblem {
    const Topology* topology = nullptr;
    std::size_t node_count = 0;
    FieldLayout layout;
    std::vector<ConstraintRow> rows;
    Constraints constraints;
    std::vector<SourcedJoint> sourced;
    std::vector<Joint> joints;  ///< those of `sourced`
    std::function<void(std::size_t element, ElementMatrix& matrix)> element_matrix;
    std::function<std::unique_ptr<ProblemOnCorners>()> on_corners;  ///< the same of linear elements on the same corners
    std::function<bool()> suits_multigrid;
    std::function<void(std::size_t node, Place& place)> tell_place;  ///< where a node lies

    /// Refers to this.
    [[nodiscard]] Assembly assembly() const {
        return {*topology, node_count, layout, constraints, element_matrix, joints};
    }
};

/// A problem with the mesh that was made for it.
struct ProblemOnCorners {
    std::shared_ptr<const Topology> mesh;
    FieldProblem problem;
};

/// In the plane.
struct PlaneProblem : FieldProblem {
    const Mesh* mesh = nullptr;
    std::function<PlaneProblem(const Mesh&)> on;  ///< the same problem on another mesh of the part
    Vec2 centre{};                                ///< of the mesh, about which ends tilt
    double arm = 1;                               ///< by which turns are multiplied
};

/// `factor`: of the stiffness or the conductivity at each slot, read when elements are asked for; null or empty: 1.
PlaneProblem displacement_problem(const Mesh& mesh, const Study& study, const Laws& laws,
                                  const std::vector<CaseSpec>& cases, const std::vector<double>* factor = nullptr);
PlaneProblem potential_problem(const Mesh& mesh, const Study& study, const Laws& laws,
                               const std::vector<CaseSpec>& cases, const std::vector<double>* factor = nullptr);

}  // namespace dotsift
