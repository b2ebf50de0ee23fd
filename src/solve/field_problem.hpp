#pragma once
// All equations of one field (displacement or potential) over one mesh, as plain data.

#include <functional>
#include <vector>

#include "solve/assembly.hpp"
#include "solve/element_matrix.hpp"
#include "solve/joints.hpp"
#include "solve/supports.hpp"

namespace dotsift {

/// Refers to everything that it was made of, which must outlive it.
struct FieldProblem {
    const Mesh* mesh = nullptr;
    FieldLayout layout;
    std::vector<ConstraintRow> rows;
    Constraints constraints;
    std::vector<SourcedJoint> sourced;
    std::vector<Joint> joints;  ///< those of `sourced`
    std::function<void(std::size_t element, ElementMatrix& matrix)> element_matrix;
    std::function<FieldProblem(const Mesh&)> on;  ///< the same problem on another mesh of the part
    Vec2 centre{};                                ///< of the mesh, about which ends tilt
    double arm = 1;                               ///< by which turns are multiplied

    /// Refers to this.
    [[nodiscard]] Assembly assembly() const { return {*mesh, layout, constraints, element_matrix, joints}; }
};

/// `factor`: of the stiffness or the conductivity at each slot, read when elements are asked for; null or empty: 1.
FieldProblem displacement_problem(const Mesh& mesh, const Study& study, const Laws& laws,
                                  const std::vector<CaseSpec>& cases, const std::vector<double>* factor = nullptr);
FieldProblem potential_problem(const Mesh& mesh, const Study& study, const Laws& laws,
                               const std::vector<CaseSpec>& cases, const std::vector<double>* factor = nullptr);

}  // namespace dotsift
