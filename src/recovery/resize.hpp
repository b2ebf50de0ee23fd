#pragma once
// Factors on the sizes of a mesh -> the sizes of the next one.

#include <functional>
#include <optional>
#include <vector>

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

/// The field of the next mesh: every element of this one asks for its size times its factor, in the plane over its
/// area, in space in a ball of its volume.
template <int D>
SizeFieldIn<D> resize(const MeshIn<D>& mesh, const std::vector<double>& factors, const ResizeLimits& limits);

/// The elements that become smaller and those that touch them, so that the sizes have room to grow; rows of layers
/// stay.
template <int D>
std::vector<char> changing_elements(const MeshIn<D>& mesh, const std::vector<double>& factors);

/// The size at a singular point (see factor_at_point): the least that an allowed element asks for which has a node
/// within `near` of it. Nothing if no such element does.
template <int D>
std::optional<SizeSourceIn<D>> point_source(const MeshIn<D>& mesh, const std::vector<double>& element_error2,
                                            double wanted_element_error2, const Vec<D>& point, double exponent,
                                            double near, const std::function<bool(std::size_t)>& allowed);

}  // namespace dotsift
