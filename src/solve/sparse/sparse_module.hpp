#pragma once
// What passes between the core and the module that holds the sparse library.

#include "solve/system/linear_solver.hpp"

namespace dotsift {

inline constexpr const char* sparse_module = "libdotsift-sparse.so";
using MakeDirectSolver = LinearSolver* (*)();
inline constexpr const char* direct_solver_symbol = "dotsift_direct_solver";
using FindOrder = bool (*)(const SymmetricMatrix& graph, OrderMethod method, std::int32_t* order);
inline constexpr const char* find_order_symbol = "dotsift_find_order";

}  // namespace dotsift
