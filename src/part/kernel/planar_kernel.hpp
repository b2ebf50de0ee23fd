#pragma once
// What passes between the core and the module that holds the geometry library.

#include <array>
#include <string>
#include <vector>

#include "part/combine.hpp"

namespace dotsift {

struct KernelEdge {
    std::array<Vec2, 5> points;  ///< start, quarter, middle, three quarters, end
    std::vector<int> labels;
};

struct KernelResult {
    std::vector<std::vector<std::vector<KernelEdge>>> faces;
    std::string fault;  ///< empty if all went well
};

using PlanarKernel = void (*)(const std::vector<LabelledLoop>&, KernelResult&);
inline constexpr const char* planar_kernel_symbol = "dotsift_planar_kernel";

}  // namespace dotsift
