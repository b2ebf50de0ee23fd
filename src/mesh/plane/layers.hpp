#pragma once
// Rows of thin elements along boundaries.

#include <map>
#include <string>
#include <tuple>
#include <vector>

#include "mesh/meshing_log.hpp"
#include "mesh/plane/corner_mesh.hpp"
#include "mesh/plane/outline.hpp"
#include "part/part.hpp"
#include "sizes/sizing.hpp"

namespace dotsift {

/// Where rows end at another boundary, that boundary carries their points: how far these are from the corner, over what
/// was asked. By edge with rows, its side (left), and the end of it (at its start).
using EndFactors = std::map<std::tuple<int, bool, bool>, double>;

/// The points that rows need on the edges at which they end.
std::vector<EdgeEnd> ends_of_layers(const Part& part, const std::vector<EdgeLayers>& layers, const EndFactors& factors);

struct Layers {
    Division division;               ///< what is left to be filled: the tops of the rows take the place of the boundary
    CornerMesh rows;                 ///< the elements; its points begin with those of `division`
    std::vector<std::int32_t> foot;  ///< for each point of `rows` the point of the boundary below it
    std::vector<ThinnedPlace> thinned;
    bool redivide = false;         ///< `factors` were lowered, or edges left out: the edges must be divided again
    std::map<int, Vec2> left_out;  ///< edges where no height fits, and where
};

/// Grows rows from a divided boundary; `outline` is then what is left to fill. Each row is an exact offset of the
/// boundary's chords. At corners that stick out into the material rows turn round in a fan; in corners of the material
/// they merge along the bisector; where they end at another boundary their ends lie on it (see ends_of_layers), and
/// elsewhere they end in a step. Where the way to the opposite boundary is too short, or rows would cross, all rows are
/// thinned by one factor, which changes gradually along the boundary. Throws InputError if rows of different number
/// meet at a corner, MeshError if they cross however thin they are.
Layers add_layers(const Part& part, Outline& outline, const std::vector<EdgeLayers>& rules, EndFactors& factors);

}  // namespace dotsift
