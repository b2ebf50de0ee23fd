#include "solve/system/field_system.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include "base/errors.hpp"
#include "solve/system/multigrid.hpp"

namespace dotsift {

namespace {

// With more right sides than this its factor pays.
constexpr std::size_t most_iterated_cases = 3;

}  // namespace

FieldSystem::FieldSystem(const FieldProblem& problem, const std::vector<std::vector<double>>& forces,
                         const SolverSpec& wanted, std::int64_t iterated)
    : problem_(problem),
      forces_(forces),
      wanted_(wanted),
      system_(assemble(problem.assembly(), forces_)),
      suits_iteration_(problem.suits_multigrid()),
      memory_(wanted.most_memory.value_or(memory_share * available_memory())) {
    if (unknowns() == 0) {  // everything is prescribed
        report_.method = "nothing to solve";
        return;
    }
    bool iterate = wanted.method == SolverMethod::iterative;
    if (wanted.method == SolverMethod::automatic && suits_iteration_) {
        iterate = unknowns() >= iterated && forces.size() <= most_iterated_cases;
        if (!iterate) {
            direct_ = make_direct_solver();
            iterate = direct_->analyse(system_.matrix, order()) > memory_;
        }
    }
    if (iterate) {
        try {
            make_iterative();
            return;
        } catch (const SolveError&) {
            if (wanted.method == SolverMethod::iterative) throw;
            iterative_.reset();
        }
    }
    make_direct();
}

const std::vector<std::int32_t>& FieldSystem::order() {
    if (!order_.empty()) return order_;
    const auto start = std::chrono::steady_clock::now();
    order_ = system_.order();
    order_seconds_ = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    return order_;
}

void FieldSystem::make_iterative() {
    const auto linear = problem_.on_corners();
    iterative_ =
        make_multigrid_solver(coarse_space(problem_.assembly(), linear->problem.assembly()), system_.first_unknown);
    const double needed = iterative_->analyse(system_.matrix, {}), free = memory_share * available_memory();
    if (needed > free)
        throw SolveError(fmt::format("{} unknowns need {:.2g} GB even without a factor of all of them, but only {:.2g} "
                                     "GB of memory may be taken",
                                     unknowns(), needed / 1e9, free / 1e9),
                         {}, "ask for larger elements, or use a machine with more memory");
    iterative_->factor(system_.matrix, {});
    // The iteration has its own copy; should it stall, the matrix is made again.
    system_.matrix.row = {};
    system_.matrix.value = {};
}

void FieldSystem::make_direct() {
    // The right sides stay where they are: one of them may be what is being solved.
    if (system_.matrix.row.empty()) system_.matrix = assemble(problem_.assembly(), forces_).matrix;
    if (!direct_) direct_ = make_direct_solver();
    const double needed = direct_->analyse(system_.matrix, order());
    if (needed > memory_)
        throw SolveError(fmt::format("the factor of {} unknowns needs {:.2g} GB, but it may take only {:.2g} GB",
                                     unknowns(), needed / 1e9, memory_ / 1e9),
                         {},
                         suits_iteration_
                             ? "ask for larger elements, or use a machine with more memory"
                             : "use mesh.order = 2 and elements that are not flat, whose systems can be solved with "
                               "less memory, or ask for larger elements");
    try {
        direct_->factor(system_.matrix, order());
    } catch (const SolveError& e) {
        if (direct_->bad_unknown() < 0) throw;
        const auto found =
            std::upper_bound(system_.first_unknown.begin(), system_.first_unknown.end(), direct_->bad_unknown());
        Place place = e.place();
        const auto node = static_cast<std::size_t>(found - system_.first_unknown.begin()) - 1;
        if (node < static_cast<std::size_t>(problem_.layout.nodes)) problem_.tell_place(node, place);
        throw SolveError(e.what(), place, e.remedy());
    }
}

std::vector<double> FieldSystem::solve_unknowns(const std::vector<double>& right_side,
                                                const std::vector<double>& start) {
    if (unknowns() == 0) return {};
    std::vector<double> x;
    if (iterative_) {
        try {
            x = iterative_->solve_from(right_side, start);
        } catch (const SolveError&) {
            if (wanted_.method == SolverMethod::iterative) throw;
            iterative_.reset();  // it stalls: the direct solver is left
            make_direct();
        }
    }
    if (!iterative_) x = direct_->solve(right_side);
    report_ = iterative_ ? iterative_->report() : direct_->report();
    report_.assembly_seconds = system_.pattern_seconds + system_.numeric_seconds;
    report_.order_seconds = order_seconds_;
    return x;
}

std::vector<double> FieldSystem::solve(std::size_t load_case, const std::vector<double>& start) {
    std::vector<double> guess;
    if (!start.empty() && iterative_) {
        guess.assign(static_cast<std::size_t>(unknowns()), 0.0);
        for (std::int32_t d = 0; d < problem_.layout.dofs; ++d)
            if (const auto u = problem_.constraints.unknown_of(d); u >= 0)
                guess[static_cast<std::size_t>(u)] = start[static_cast<std::size_t>(d)];
    }
    return problem_.constraints.expand(solve_unknowns(system_.right_side[load_case], guess), load_case);
}

std::vector<double> FieldSystem::respond(const std::vector<double>& force) {
    const Constraints& constraints = problem_.constraints;
    return constraints.expand_homogeneous(solve_unknowns(constraints.restrict_forces(force)));
}

}  // namespace dotsift
