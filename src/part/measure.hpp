#pragma once
// Areas, centroids and moments from the true curves, by Green's theorem.

#include <vector>

#include "part/part.hpp"

namespace dotsift {

/// Lengths in the study's unit; second moments about axes through the centroid along x and y.
struct AreaMeasures {
    double area = 0, perimeter = 0;
    Vec2 centroid;
    double ixx = 0;  ///< integral of y^2
    double iyy = 0;  ///< integral of x^2
    double ixy = 0;  ///< integral of x y
};

/// Of one loop as it runs; holes have a negative area.
AreaMeasures measure_loop(const Part& part, const std::vector<EdgeUse>& loop);

/// Of one face, holes taken off.
AreaMeasures measure_face(const Part& part, std::size_t face);

/// Of some faces together; the perimeter is that of their union's outline.
AreaMeasures measure_faces(const Part& part, const std::vector<std::size_t>& faces);

/// Of the whole part.
AreaMeasures measure(const Part& part);

/// Second moments about the principal axes, the larger one first, and the angle of its axis to x in radians.
struct PrincipalMoments {
    double largest, smallest, angle;
};
PrincipalMoments principal_moments(const AreaMeasures& measures);

}  // namespace dotsift
