#pragma once
// What passes between the core and the module that holds the geometry library.

#include <string>
#include <vector>

#include "part/curve.hpp"

namespace dotsift {

/// A piece of one or more of the given curves (several where they lie on each other) between two vertices.
struct KernelPiece {
    int start = 0, end = 0;
    Vec2 middle;
    std::vector<int> curves;
};

struct KernelResult {
    std::vector<Vec2> vertices;
    std::vector<KernelPiece> pieces;
    std::string fault;  ///< empty if all went well
};

/// Cuts lines, arcs and splines where they meet. `centre` and `size` bring them to a size of about one.
using PlanarKernel = void (*)(const std::vector<Curve>& curves, const Vec2& centre, double size, KernelResult& result);
inline constexpr const char* planar_kernel_symbol = "dotsift_planar_kernel";

}  // namespace dotsift
