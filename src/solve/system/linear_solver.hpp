#pragma once
// Sparse symmetric systems, and one interface for whatever solves them.

#include <cstdint>
#include <memory>
#include <new>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "solve/system/available_memory.hpp"

namespace dotsift {

/// Leaves new entries as they are, so that large arrays are first touched where and when they are filled.
template <class T>
struct Untouched : std::allocator<T> {
    template <class U>
    struct rebind {
        using other = Untouched<U>;
    };
    template <class U>
    void construct(U* at) noexcept {
        ::new (static_cast<void*>(at)) U;
    }
    template <class U, class... Arguments>
    void construct(U* at, Arguments&&... arguments) {
        ::new (static_cast<void*>(at)) U(std::forward<Arguments>(arguments)...);
    }
};
template <class T>
using LargeArray = std::vector<T, Untouched<T>>;

/// Lower triangle of a symmetric matrix by columns, rows ascending, the diagonal first in each column.
struct SymmetricMatrix {
    std::int32_t size = 0;
    std::vector<std::int32_t> column_first;  ///< size + 1
    LargeArray<std::int32_t> row;
    LargeArray<double> value;

    /// y = A x
    void multiply(std::span<const double> x, std::span<double> y) const;
};

/// What one factorisation and solve took.
struct SolverReport {
    std::string method;
    double factor_seconds = 0, solve_seconds = 0;
    double assembly_seconds = 0, order_seconds = 0;  ///< before them: pattern and values; the fill-reducing order
    double coarse_seconds = 0;                       ///< of factor_seconds: the factor of the linear elements
    double factor_bytes = 0;
    int steps = 0;        ///< of an iteration; 0: solved directly
    double scale = 0;     ///< |A| |x| + |b|, infinity norms, of the last solve: what rounding is held against
    double residual = 0;  ///< |b - A x| / (|A| |x| + |b|), infinity norms, of the last solve
};

class LinearSolver {
  public:
    virtual ~LinearSolver() = default;
    /// The memory that factor() will need, in bytes. `order` is a fill-reducing order of the unknowns: order[k] is
    /// eliminated as the k-th.
    virtual double analyse(const SymmetricMatrix& matrix, std::span<const std::int32_t> order) = 0;
    /// Analyses the matrix if that was not done.
    /// Throws SolveError if the matrix is not positive definite (with the index of the unknown in bad_unknown()) or
    /// needs more memory than there is.
    virtual void factor(const SymmetricMatrix& matrix, std::span<const std::int32_t> order) = 0;
    /// Solves with the factor and one step of iterative refinement.
    virtual std::vector<double> solve(std::span<const double> right_side) = 0;
    /// The same beginning from a guess, which may be empty; it shortens an iteration, and a factor needs none.
    virtual std::vector<double> solve_from(std::span<const double> right_side, std::span<const double> /*start*/) {
        return solve(right_side);
    }
    /// The same without refinement, report and checks; for use inside of other solvers.
    virtual std::vector<double> solve_once(std::span<const double> right_side) { return solve(right_side); }
    [[nodiscard]] virtual const SolverReport& report() const = 0;
    [[nodiscard]] virtual int bad_unknown() const = 0;
};

/// The share of the free memory that a factor may take.
inline constexpr double memory_share = 0.9;

/// Supernodal Cholesky factorisation by CHOLMOD.
std::unique_ptr<LinearSolver> make_direct_solver();

/// How to find an order of elimination that leaves a factor sparse: approximate minimum degree is best in the plane,
/// nested dissection in space.
enum class OrderMethod { minimum_degree, dissection };
/// Of a graph given by its lower triangle (values are ignored).
std::vector<std::int32_t> fill_reducing_order(const SymmetricMatrix& graph, OrderMethod method);

}  // namespace dotsift
