#pragma once
// Element matrices -> the sparse system of the unknowns.

#include <cstdint>
#include <functional>
#include <span>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/constraints.hpp"
#include "solve/field_layout.hpp"
#include "solve/linear_solver.hpp"

namespace dotsift {

inline constexpr std::size_t most_shared_dofs = 3;
inline constexpr std::size_t most_element_dofs = displacement_components * most_element_nodes + most_shared_dofs;

/// The lower triangle of an element's matrix, rows one after another; rows and columns are the components of the first
/// node, those of the second, ..., then the shared degrees of freedom.
using ElementMatrix = std::array<double, most_element_dofs * most_element_dofs>;

/// Something else with a stiffness: a founded side, two sides that touch.
struct Joint {
    std::vector<std::int32_t> dofs;
    std::vector<double> matrix;  ///< square, symmetric, row by row
};

/// What is to be assembled.
struct Assembly {
    const Mesh& mesh;
    FieldLayout layout;
    const Constraints& constraints;
    /// Fills the matrix of an element; called from several threads.
    std::function<void(std::size_t element, ElementMatrix& matrix)> element_matrix;
    std::span<const Joint> joints;
};

struct System {
    SymmetricMatrix matrix;
    std::vector<std::vector<double>> right_side;  ///< of each case
    double pattern_seconds = 0, numeric_seconds = 0;
    std::vector<std::int32_t> first_unknown;  ///< of each node; one more
    /// Of each group of unknowns: those of a node, or one that stands alone; one more.
    std::vector<std::int32_t> first_of_group;
    /// A fill-reducing order of the unknowns; only a factor needs it.
    [[nodiscard]] std::vector<std::int32_t> order() const;
};

/// `forces[case][dof]` act from outside. The result does not depend on the number of threads: pieces of the mesh that
/// share a node are never at work at the same time, and come in a fixed order. Throws SolveError if the matrix would be
/// too large.
System assemble(const Assembly& assembly, const std::vector<std::vector<double>>& forces);

/// Pieces of the mesh in groups: within a group no two pieces share a node.
struct ColouredPieces {
    struct Piece {
        std::size_t begin, end;  ///< elements
    };
    std::vector<std::vector<Piece>> colours;
};
ColouredPieces coloured_pieces(const Mesh& mesh);

}  // namespace dotsift
