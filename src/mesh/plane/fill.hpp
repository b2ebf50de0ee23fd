#pragma once
// Filling a triangulated outline with points where the size field wants them.

#include <functional>
#include <limits>

#include <vector>

#include "mesh/plane/triangulation.hpp"
#include "sizes/size_field.hpp"

namespace dotsift {

/// Adds points inside until every triangle is about as large as the field asks. Points are placed as apexes of
/// near-equilateral triangles on the front between finished and unfinished ones (Rebay 1993, J. Comput. Phys. 106),
/// so the mesh grows from the boundary inwards. Throws MeshError above `most_triangles`.
void fill(Triangulation& mesh, const SizeField& sizes, std::size_t most_triangles);

/// Sizes in a plane that a function tells, as on a chart of a surface.
struct ToldSizes {
    /// At a place. What it leaves in `hint` (at first -1) comes back with a call from nearby.
    std::function<double(const Vec2& at, std::int32_t& hint)> size;
    [[nodiscard]] double at(const Vec2& x, std::int32_t& hint) const { return size(x, hint); }
    /// Not known: every place is asked.
    [[nodiscard]] static double steepest() { return std::numeric_limits<double>::infinity(); }
};
void fill(Triangulation& mesh, const ToldSizes& sizes, std::size_t most_triangles);

/// Moves inside points towards the apexes of equilateral triangles on the opposite edges, where that does not spoil
/// the worst triangle round them, and flips edges back to Delaunay, a few rounds. Vertices before `first_movable` stay.
void smooth(Triangulation& mesh, int rounds, int first_movable);

/// Adds circumcentres of triangles that have an angle below `angle` (degrees) where that is possible without
/// coming near the boundary. Returns the number of points added.
int refine_poor(Triangulation& mesh, double angle);

}  // namespace dotsift
