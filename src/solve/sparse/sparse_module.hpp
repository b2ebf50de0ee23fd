#pragma once
// What passes between the core and the module that holds the sparse library.

#include "solve/system/linear_solver.hpp"

namespace dotsift {

inline constexpr const char* sparse_module = "libdotsift-sparse.so";
using MakeDirectSolver = LinearSolver* (*)();
inline constexpr const char* direct_solver_symbol = "dotsift_direct_solver";
using MinimumDegree = bool (*)(const SymmetricMatrix& graph, std::int32_t* order);
inline constexpr const char* minimum_degree_symbol = "dotsift_minimum_degree";

}  // namespace dotsift
