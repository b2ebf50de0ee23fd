#pragma once
// Fields along lines through the part.

#include <functional>
#include <vector>

#include "quantities/evaluate.hpp"

namespace dotsift {

/// A point on a path.
template <int D>
struct PathPointIn {
    double distance = 0;  ///< from the path's start
    Vec<D> position, tangent;
    std::optional<LocationIn<D>> where;  ///< nothing: outside the part
};
using PathPoint = PathPointIn<2>;

/// Evenly spaced points, corners included where they fall; of a path on a boundary, seen from the elements on its left.
template <int D>
std::vector<PathPointIn<D>> sample_path(const PathSpec& path, const ElementLocatorIn<D>& locator);

double length_of(const PathSpec& path, const Mesh& mesh);

/// Integral over the path of a function of the element and the point in it; what lies outside the part does not count.
/// Gauss points on short pieces: the recovered field is smooth only inside of elements.
template <int D>
double integrate_path(const PathSpec& path, const FieldSourceIn<D>& source, const ElementLocatorIn<D>& locator,
                      const std::function<double(std::size_t, const ElementPointIn<D>&, const PathPointIn<D>&)>& value);

/// Calls act(point, weight) at the integration points of a path that lie in the part.
void for_path(const PathSpec& path, const ElementLocator& locator,
              const std::function<void(const PathPoint&, double)>& act);

/// Force and moment (about the path's middle) that the side on the path's left puts on the one on its right.
struct SectionForce {
    Vec2 force{};
    double moment = 0;
};
SectionForce section_force(const PathSpec& path, const FieldSource& source, const ElementLocator& locator);

/// Stress linearised across a straight path: its mean, and its first moment as the stress at the start that a linear
/// distribution of the same moment has (Hechmer & Hollinger 1998, WRC Bulletin 429).
template <int D>
struct LinearisedStressIn {
    StressIn<D> membrane{}, bending{};
};
template <int D>
LinearisedStressIn<D> linearise(const PathSpec& path, const FieldSourceIn<D>& source,
                                const ElementLocatorIn<D>& locator);

/// The stress on a line straight through a wall, taken apart: components along the line, across it, the shear, and
/// out of the plane or round the axis, in this order; of a solid along x, y and z. At either end peak is what membrane
/// and bending leave of the whole.
template <int D>
struct WallStressIn {
    struct Parts {
        StressIn<D> membrane{}, bending{}, linear{}, peak{}, whole{};
    };
    Parts start, end;
};
/// Nothing where the path is no straight line, or does not lie in the part as a whole.
template <int D>
std::optional<WallStressIn<D>> wall_stress(const PathSpec& path, const FieldSourceIn<D>& source,
                                           const ElementLocatorIn<D>& locator);

}  // namespace dotsift
