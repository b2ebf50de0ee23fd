#include "recovery/fit/corner_rule.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

namespace {
// Distances from a point rise with this power at most along the rule: with greater ones rounding would show.
constexpr double greatest_power = 4;
}  // namespace

std::vector<ShapePoint> points_towards(ElementKind kind, const SingularApex& corner, int degree) {
    std::vector<ShapePoint> out;
    for (const auto& t : reference_triangles(kind)) {
        const double share = cross(t[1] - t[0], t[2] - t[0]);
        const auto apex = static_cast<std::size_t>(std::find(t.begin(), t.end(), corner.xi) - t.begin());
        if (apex == t.size()) {
            for (const auto& q : triangle_rule(degree))
                out.push_back(
                    shape_point(kind, t[0] + (t[1] - t[0]) * q.xi[0] + (t[2] - t[0]) * q.xi[1], share * q.weight));
            continue;
        }
        // Rays from the corner, on which the distance is a power of what the rule divides evenly: so the square of the
        // stress, times its area, is linear (Duffy 1982, SIAM J. Numer. Anal. 19, with a power).
        const Vec2 &a = t[(apex + 1) % 3], &b = t[(apex + 2) % 3];
        const double power = std::min(1 / corner.exponent, greatest_power);
        for (const auto& along : line_rule()) {
            const double r = std::pow(along.t, power), weight = share * along.weight * power * r * r / along.t;
            for (const auto& across : line_rule())
                out.push_back(
                    shape_point(kind, corner.xi + (a + (b - a) * across.t - corner.xi) * r, weight * across.weight));
        }
    }
    return out;
}

}  // namespace dotsift
