#pragma once
// The divided boundary as a constrained triangulation, and what shows that it is too coarse somewhere.

#include <functional>
#include <string>
#include <vector>

#include "mesh/mesh.hpp"
#include "mesh/plane/corner_mesh.hpp"
#include "mesh/plane/division.hpp"
#include "mesh/plane/triangulation.hpp"

namespace dotsift {

/// Segments that turned out too coarse, and why.
struct Coarse {
    std::vector<std::size_t> segments;
    std::string reason;
};

struct Outline {
    Division division;
    Triangulation mesh;
    std::vector<int> vertex;  ///< of the triangulation, for each point of the division
};

/// Triangulates points and segments and marks what lies in which face. Segments that cross others, or leave a boundary
/// on its wrong side, are added to `coarse`; then the faces are not to be trusted.
Outline triangulate(Division division, Coarse& coarse);

/// The triangles of all faces, with the points of the division first.
CornerMesh corner_mesh(const Outline& outline);

/// Segments with another boundary's point inside the circle over them as diameter: the gap is narrower than they are
/// long.
Coarse narrow_places(const Part& part, const Outline& outline);
/// The same, where it is told whether two edges end at each other at a narrow angle, beside which there is no room.
Coarse narrow_places(const Outline& outline, const std::function<bool(int edge, int other)>& meet_sharply);
/// Narrower corners than this are not refined without end.
inline constexpr double sharp_corner = 60;  // degrees

/// Boundary segments that are the longest side of a thin element: the size field could not know of the wall or gap.
Coarse thin_elements(const Part& part, const Outline& outline);

/// Boundary segments that bend elements beside them too far, or turn them inside out.
Coarse bent_elements(const Mesh& mesh, const Division& division, const Part& part);

/// Half of their length is wanted along these segments.
std::vector<SizeSource> halved(const Coarse& coarse, const Division& division);

}  // namespace dotsift
