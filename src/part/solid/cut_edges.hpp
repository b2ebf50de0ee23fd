#pragma once
// Edges of a plane part cut into pieces before it becomes a solid.

#include <functional>

#include "part/part.hpp"

namespace dotsift {

/// Each edge in as many equal pieces of its parameter as `pieces` says. First pieces keep their edge's place; the
/// others come after all edges.
Part cut_edges(Part part, const std::function<int(const PartEdge&)>& pieces);

/// The part without closed edges: each becomes three.
Part without_closed_edges(Part part);

}  // namespace dotsift
