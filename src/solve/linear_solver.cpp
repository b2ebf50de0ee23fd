#include "solve/linear_solver.hpp"

#include "base/errors.hpp"
#include "base/resources.hpp"
#include "solve/sparse/sparse_module.hpp"

namespace dotsift {

std::unique_ptr<LinearSolver> make_direct_solver() {
    static const auto make = reinterpret_cast<MakeDirectSolver>(module_symbol(sparse_module, direct_solver_symbol));
    return std::unique_ptr<LinearSolver>(make());
}

std::vector<std::int32_t> minimum_degree_order(const SymmetricMatrix& graph) {
    static const auto find = reinterpret_cast<MinimumDegree>(module_symbol(sparse_module, minimum_degree_symbol));
    std::vector<std::int32_t> order(static_cast<std::size_t>(graph.size));
    if (!find(graph, order.data())) throw SolveError("the unknowns could not be ordered: not enough memory");
    return order;
}

}  // namespace dotsift
