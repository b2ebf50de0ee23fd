#pragma once
// The sides of elements, and which two elements share them.

#include <vector>

#include "mesh/mesh.hpp"

namespace dotsift {

/// A side of an element, from its point of view; the other element's side runs the other way.
struct ElementSide {
    std::int32_t element = 0, side = 0;
    std::int32_t other = -1, other_side = 0;  ///< -1: the side is on the outline
    [[nodiscard]] bool outer() const { return other < 0; }
};

/// Every side once, in the order of the elements that come first.
std::vector<ElementSide> element_sides(const Mesh& mesh);

}  // namespace dotsift
