#pragma once
// One field's assembled system and whatever solves it; kept, so that further right sides cost no factorisation.

#include <memory>
#include <vector>

#include "solve/field_problem.hpp"
#include "study/study.hpp"

namespace dotsift {

/// From this many unknowns on, the iteration is faster than the direct solver (measured: docs/performance.md).
inline constexpr std::int64_t many_unknowns = 100'000;

/// Small systems, many cases and flat elements are for the direct solver; large ones for the iteration, which needs
/// less memory; if that stalls, the direct one.
class FieldSystem {
  public:
    /// Assembles and factors; `forces[case][dof]` act from outside. The problem must outlive this. Throws SolveError if
    /// the system is singular (at which place), too large, or needs more memory than it may take. If it is free to
    /// choose, it iterates from `iterated` unknowns on.
    FieldSystem(const FieldProblem& problem, const std::vector<std::vector<double>>& forces, const SolverSpec& wanted,
                std::int64_t iterated = many_unknowns);

    [[nodiscard]] std::int64_t unknowns() const { return system_.matrix.size; }
    /// Values of all degrees of freedom in a load case. `start` is a guess of them, or empty.
    std::vector<double> solve(std::size_t load_case, const std::vector<double>& start = {});
    /// What other forces do where everything prescribed is held at zero.
    std::vector<double> respond(const std::vector<double>& force);
    /// Of the last solve.
    [[nodiscard]] const SolverReport& report() const { return report_; }

  private:
    const std::vector<std::int32_t>& order();
    void make_iterative();
    void make_direct();
    std::vector<double> solve_unknowns(const std::vector<double>& right_side, const std::vector<double>& start = {});

    const FieldProblem& problem_;
    std::vector<std::vector<double>> forces_;
    SolverSpec wanted_;
    System system_;
    std::vector<std::int32_t> order_;  // made when a factor needs it
    double order_seconds_ = 0;
    std::unique_ptr<LinearSolver> direct_, iterative_;  ///< the one in use is factored
    bool suits_iteration_;
    double memory_;
    SolverReport report_;
};

/// A lift less the response to its load; without a lift the response.
inline std::vector<double> lifted(std::vector<double> response, const std::vector<double>& lift) {
    for (std::size_t d = 0; d < lift.size(); ++d) response[d] = lift[d] - response[d];
    return response;
}

}  // namespace dotsift
