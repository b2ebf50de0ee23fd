#pragma once
// Factors on the sizes of a mesh -> the sizes of the next one.

#include "mesh/mesh.hpp"
#include "sizes/size_field.hpp"

namespace dotsift {

/// What limits the sizes of the next mesh.
struct ResizeLimits {
    double smallest = 0;  ///< element size
    double largest = 0;
    double growth = 1.3;      ///< from one element to the next
    double most_finer = 8;    ///< an element's size is divided by at most this
    double most_coarser = 2;  ///< and multiplied by at most this
};

/// The field of the next mesh: every element of this one asks for its size times its factor.
SizeField resize(const Mesh& mesh, const std::vector<double>& factors, const ResizeLimits& limits);

}  // namespace dotsift
