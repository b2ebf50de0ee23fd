#pragma once
// Element matrices -> the sparse system of the unknowns.

#include <cstdint>
#include <functional>
#include <span>
#include <vector>

#include "mesh/topology.hpp"
#include "solve/system/constraints.hpp"
#include "solve/system/field_layout.hpp"
#include "solve/system/linear_solver.hpp"

namespace dotsift {

inline constexpr std::size_t most_shared_dofs = 3;

/// The lower triangle of an element's matrix, as large as the element needs; rows and columns are the components of the
/// first node, those of the second, ..., then the shared degrees of freedom. One is used for many elements.
class ElementMatrix {
  public:
    /// Zeros, this many rows and columns.
    void reset(std::size_t rows) {
        rows_ = rows;
        values_.assign(rows * rows, 0.0);
    }
    [[nodiscard]] std::size_t rows() const { return rows_; }
    [[nodiscard]] double* row(std::size_t i) { return values_.data() + i * rows_; }
    double& operator()(std::size_t i, std::size_t j) { return values_[i * rows_ + j]; }
    double operator()(std::size_t i, std::size_t j) const { return values_[i * rows_ + j]; }
    /// Of a pair in either triangle.
    [[nodiscard]] double of(std::size_t i, std::size_t j) const { return i >= j ? (*this)(i, j) : (*this)(j, i); }

  private:
    std::size_t rows_ = 0;
    std::vector<double> values_;
};

/// Something else with a stiffness: a founded side, two sides that touch.
struct Joint {
    std::vector<std::int32_t> dofs;
    std::vector<double> matrix;  ///< square, symmetric, row by row
};

/// What is to be assembled.
struct Assembly {
    const Topology& mesh;
    std::size_t node_count;
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
    OrderMethod order_method = OrderMethod::minimum_degree;
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
ColouredPieces coloured_pieces(const Topology& mesh, std::size_t nodes);

}  // namespace dotsift
