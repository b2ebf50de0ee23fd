#include "solve/system/linear_solver.hpp"

#include "base/errors.hpp"
#include "base/resources.hpp"
#include "base/room.hpp"
#include "solve/sparse/sparse_module.hpp"

namespace dotsift {

namespace {

// What the sparse library and its BLAS take when they are loaded and first called (measured: 0.4 GB are enough).
constexpr double room_to_begin = 0.5e9;

void* symbol(const char* name) {
    ask_for_room(room_to_begin, "the sparse solver");
    return module_symbol(sparse_module, name);
}

}  // namespace

std::unique_ptr<LinearSolver> make_direct_solver() {
    static const auto make = reinterpret_cast<MakeDirectSolver>(symbol(direct_solver_symbol));
    return std::unique_ptr<LinearSolver>(make());
}

std::vector<std::int32_t> fill_reducing_order(const SymmetricMatrix& graph, OrderMethod method) {
    static const auto find = reinterpret_cast<FindOrder>(symbol(find_order_symbol));
    std::vector<std::int32_t> order(static_cast<std::size_t>(graph.size));
    if (!find(graph, method, order.data())) throw SolveError("the unknowns could not be ordered: not enough memory");
    return order;
}

}  // namespace dotsift
