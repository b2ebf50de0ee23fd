#pragma once
// Closed surfaces of facets with known measures, and files of them.

#include <cmath>
#include <string>

#include "part/facets/facet_mesh.hpp"

namespace dotsift::test {

/// A polygon with corners (distance from the axis, height), anticlockwise, turned about z in so many steps.
inline FacetMesh turned_facets(const std::vector<Vec2>& profile, int steps) {
    FacetMesh m;
    m.groups = {""};
    const auto place = [&](const Vec2& q, int k) {
        const double t = 2 * M_PI * (k % steps) / steps;
        m.points.push_back({{q[0] * std::cos(t), q[0] * std::sin(t), q[1]}});
        return static_cast<std::int32_t>(m.points.size()) - 1;
    };
    for (std::size_t i = 0; i < profile.size(); ++i) {
        const Vec2 &a = profile[i], &b = profile[(i + 1) % profile.size()];
        for (int k = 0; k < steps; ++k) {
            const auto p = place(a, k), q = place(a, k + 1), r = place(b, k + 1), s = place(b, k);
            if (a[0] > 0) m.facets.push_back({{p, q, r}, 0});
            if (b[0] > 0) m.facets.push_back({{p, r, s}, 0});
        }
    }
    return m;
}
inline FacetMesh ball_facets(double radius, int steps) {
    std::vector<Vec2> profile;
    const int half = steps / 2;
    for (int k = 0; k <= half; ++k)
        profile.push_back(
            {{k == 0 || k == half ? 0 : radius * std::sin(M_PI * k / half), -radius * std::cos(M_PI * k / half)}});
    return turned_facets(profile, steps);
}
inline FacetMesh ring_facets(double circle, double section, int steps, int round) {
    std::vector<Vec2> profile;
    for (int k = 0; k < round; ++k)
        profile.push_back(
            {{circle + section * std::cos(2 * M_PI * k / round), section * std::sin(2 * M_PI * k / round)}});
    return turned_facets(profile, steps);
}
inline FacetMesh tube_facets(double inner, double outer, double height, int steps) {
    return turned_facets({{{inner, 0}}, {{outer, 0}}, {{outer, height}}, {{inner, height}}}, steps);
}
/// Sides are groups of their own if they have names: bottom, top, front, back, left, right.
FacetMesh box_facets(const Vec3& low, const Vec3& size, bool named = false);

/// A quarter of a tube about z, from x to y, with groups inner, outer, foot, top, one (at y = 0) and two (at x = 0).
FacetMesh quarter_tube_facets(double inner, double outer, double height, int steps);

/// Both, as a file may hold them.
FacetMesh together(FacetMesh a, const FacetMesh& b);
FacetMesh moved_by(FacetMesh m, const Vec3& by);

/// "stl", "stl-binary", "ply", "ply-little", "ply-big", "off", "obj".
std::string facet_file(const FacetMesh& mesh, const std::string& format);

}  // namespace dotsift::test
