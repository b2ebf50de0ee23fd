#pragma once
// A mesh laid on the part that it was made from: files tell neither edges nor faces, and not all of them regions.

#include <algorithm>
#include <array>
#include <utility>
#include <vector>

#include "mesh/mesh.hpp"
#include "part/part.hpp"

namespace dotsift {

/// Where a side of a mesh lies on the part.
struct OnEdge {
    int edge = -1;
    double from = 0, to = 0;  ///< parameters at the side's two nodes
};

struct PlacedSide {
    std::int32_t left = -1, right = -1;  ///< elements; -1: none
    std::int32_t from = -1, to = -1, middle = -1;
    OnEdge on;
    /// Whether it runs as the part's edge below it.
    [[nodiscard]] bool along() const { return on.to > on.from; }
    [[nodiscard]] bool inner() const { return left >= 0 && right >= 0; }
    [[nodiscard]] std::pair<std::int32_t, std::int32_t> corners() const { return std::minmax(from, to); }
};

struct PlacedMesh {
    std::vector<PlacedSide> sides;       ///< by their two corner nodes, the smaller one first
    std::vector<std::int32_t> place;     ///< in `sides`, of each side of the mesh's table
    std::vector<BoundarySide> boundary;  ///< the mesh's, and sides on inner edges that it does not tell
    std::vector<int> face;               ///< of the part, for each element

    [[nodiscard]] const PlacedSide& side(const Mesh& mesh, std::size_t element, std::size_t side) const {
        return sides[static_cast<std::size_t>(place[mesh.sides.of(element, side)])];
    }
    /// The side between two nodes; null: there is none.
    [[nodiscard]] const PlacedSide* between(std::int32_t a, std::int32_t b) const;
};

/// Of a mesh that is connected. Throws InputError if boundary sides lie on no edge, or the regions are not those of the
/// part.
PlacedMesh place_on_part(const Part& part, const Mesh& mesh);

/// A boundary side as the element on the left of the part's edge has it, or the only element that has it.
BoundarySide side_on_part(const Mesh& mesh, const PlacedMesh& placed, const BoundarySide& side);

/// A mesh of the part, from anywhere, with the names, edges, regions and points of the part. Throws InputError as
/// `place_on_part` does.
Mesh laid_on_part(const Part& part, Mesh mesh);

/// Gives a mesh of one region that is not the part's only one the regions of the part, by the place of each element.
/// Throws InputError if an element lies outside.
void take_regions(const Part& part, Mesh& mesh);

}  // namespace dotsift
