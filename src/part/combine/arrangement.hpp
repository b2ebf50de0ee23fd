#pragma once
// The faces between plane curves that meet at their ends only.

#include <vector>

#include "part/curve.hpp"

namespace dotsift {

struct PlanarEdge {
    Curve curve;
    int start = 0, end = 0;  ///< vertices
};

/// A side of an edge: 2 e is edge e run forwards, with what lies on its left; 2 e + 1 is e run backwards.
using EdgeSide = int;

/// Faces of a plane graph; face 0 is the outside of everything.
struct PlanarFaces {
    std::vector<int> face_of_side;                          ///< for each EdgeSide
    std::vector<std::vector<std::vector<EdgeSide>>> loops;  ///< of each face; the outer one first, except in face 0
};

/// Traces the faces. Edges may meet at vertices only; chains that end inside a face are run along on both sides.
/// Throws InputError with a place if the edges cannot be a plane graph.
PlanarFaces trace_faces(const std::vector<Vec2>& vertices, const std::vector<PlanarEdge>& edges);

}  // namespace dotsift
