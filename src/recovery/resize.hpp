#pragma once
// Error map -> the sizes of the next mesh.

#include "mesh/mesh.hpp"
#include "recovery/estimate.hpp"
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

/// For each element the factor on its size that reaches the wanted error with the fewest elements: minimises the sum of
/// factor^-d with the errors' squares falling as factor^(2p) (Ladeveze, Coffignal & Pelle 1986, in "Accuracy Estimates
/// and Adaptive Refinements in Finite Element Computations"). `wanted_error2` is the wanted squared energy norm.
std::vector<double> size_factors(const std::vector<double>& element_error2, double wanted_error2, int degree,
                                 int dimension);

/// The field of the next mesh: every element of this one asks for its size times its factor.
SizeField resize(const Mesh& mesh, const ErrorMap& error, double wanted_relative_error, const ResizeLimits& limits);

}  // namespace dotsift
