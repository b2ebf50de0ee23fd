#pragma once
// Measures of the shape that an element's corners make. Triangles have three corners, quadrilaterals four.

#include <numbers>
#include <span>

#include "base/vec.hpp"

namespace dotsift {

/// Mean-ratio shape quality: 1 for an equilateral triangle or a square, 0 or less for a degenerate or inverted one.
/// Triangles: 4 sqrt(3) area / sum of squared edges (Liu & Joe 1994, BIT 34). Quadrilaterals: the harmonic mean over
/// the corners of 2 area / (sum of the two squared edges), area that of the parallelogram there (Knupp 2003, Finite
/// Elements in Analysis and Design 39).
double mean_ratio(std::span<const Vec2> corners);

/// The same of a triangle.
inline double triangle_quality(const Vec2& a, const Vec2& b, const Vec2& c) {
    const double edges = dot(b - a, b - a) + dot(c - b, c - b) + dot(a - c, a - c);
    return edges > 0 ? 2 * std::numbers::sqrt3 * cross(b - a, c - a) / edges : 0;
}

/// The smallest over the corners of the sine of the angle there; for triangles over the sine of 60 degrees. 1 is best,
/// 0 or less is degenerate or not convex.
double scaled_jacobian(std::span<const Vec2> corners);

/// The scaled Jacobian, or three times the shortest edge over the longest if that is less: unlike the former it also
/// falls when an edge vanishes. What points are moved by.
double soundness(std::span<const Vec2> corners);

struct ShapeMeasures {
    double mean_ratio = 1, scaled_jacobian = 1;
    double edge_ratio = 1;                         ///< longest edge over shortest; 1 is best
    double smallest_angle = 0, largest_angle = 0;  ///< degrees
    double skewness = 0;  ///< largest deviation of an angle from the ideal one, over what is possible; 0 is best
    double taper = 0;     ///< degrees by which opposite edges of a quadrilateral are not parallel; 0 for triangles
};
ShapeMeasures measure_shape(std::span<const Vec2> corners);

/// A tetrahedron's volume over that of the regular one with the same root mean square of its edges, 6 sqrt(2) V / l^3:
/// 1 if it is regular, 0 flat, < 0 inside out (Parthasarathy, Graichen & Hathaway 1994, Finite Elem. Anal. Des. 15).
double volume_over_length(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d);

/// The sharpest and the bluntest dihedral angle of a tetrahedron, radians.
std::array<double, 2> dihedral_angles(const std::array<Vec3, 4>& corners);

/// 12 (3 V)^(2/3) over the sum of its squared edges: 1 if it is regular, 0 flat or inside out (Liu & Joe 1994, BIT 34).
double mean_ratio(const std::array<Vec3, 4>& corners);

}  // namespace dotsift
