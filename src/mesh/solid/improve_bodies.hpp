#pragma once
// Better tetrahedra for the same bodies: other edges, other places of inner points.

#include <functional>

#include "mesh/solid/body_mesh.hpp"

namespace dotsift {

/// Takes edges and sides out where others make the worst tetrahedron round them better (Freitag & Ollivier-Gooch 1997,
/// Int. J. Numer. Meth. Eng. 40), moves inner points to the middle of their neighbours or, round poor tetrahedra,
/// uphill on the worst one's quality, and lets a face pass on the other side of flat tetrahedra that lie on it; round
/// after round, the poor ones last. `on_edge` tells whether the line between two points is a piece of an edge of the
/// part.
void improve_bodies(BodyMesh& mesh, const std::function<bool(std::int32_t, std::int32_t)>& on_edge);

}  // namespace dotsift
