#pragma once
// Fields along lines through the part.

#include <functional>
#include <vector>

#include "quantities/evaluate.hpp"

namespace dotsift {

/// A point on a path.
struct PathPoint {
    double distance = 0;  ///< from the path's start
    Vec2 position, tangent;
    std::optional<Location> where;  ///< nothing: outside the part
};

/// Evenly spaced points, corners included where they fall; of a path on a boundary, seen from the elements on its left.
std::vector<PathPoint> sample_path(const PathSpec& path, const ElementLocator& locator);

double length_of(const PathSpec& path, const Mesh& mesh);

/// Integral over the path of a function of the element and the point in it; what lies outside the part does not count.
/// Gauss points on short pieces: the recovered field is smooth only inside of elements.
double integrate_path(const PathSpec& path, const FieldSource& source, const ElementLocator& locator,
                      const std::function<double(std::size_t, const ElementPoint&, const PathPoint&)>& value);

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
struct LinearisedStress {
    Stress membrane{}, bending{};
};
LinearisedStress linearise(const PathSpec& path, const FieldSource& source, const ElementLocator& locator);

/// The stress on a line straight through a wall, taken apart: components along the line, across it, the shear, and
/// out of the plane or round the axis, in this order. At either end peak is what membrane and bending leave of the
/// whole.
struct WallStress {
    struct Parts {
        Stress membrane{}, bending{}, linear{}, peak{}, whole{};
    };
    Parts start, end;
};
/// Nothing where the path is no straight line, or does not lie in the part as a whole.
std::optional<WallStress> wall_stress(const PathSpec& path, const FieldSource& source, const ElementLocator& locator);

}  // namespace dotsift
