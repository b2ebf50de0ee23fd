#include "mesh/elements/shape.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace dotsift {

double mean_ratio(std::span<const Vec2> p) {
    if (p.size() == 3) return triangle_quality(p[0], p[1], p[2]);
    double sum = 0, worst = INFINITY;
    for (std::size_t k = 0; k < 4; ++k) {
        const Vec2 u = p[(k + 1) % 4] - p[k], v = p[(k + 3) % 4] - p[k];
        const double edges = dot(u, u) + dot(v, v);
        const double q = edges > 0 ? 2 * cross(u, v) / edges : 0;
        worst = std::min(worst, q);
        sum += 1 / q;
    }
    return worst > 0 ? 4 / sum : worst;
}

double scaled_jacobian(std::span<const Vec2> p) {
    double least = INFINITY;
    const std::size_t n = p.size();
    for (std::size_t k = 0; k < n; ++k) {
        const Vec2 u = p[(k + 1) % n] - p[k], v = p[(k + n - 1) % n] - p[k];
        const double lengths = norm(u) * norm(v);
        least = std::min(least, lengths > 0 ? cross(u, v) / lengths : 0);
    }
    return n == 3 ? least * 2 / std::numbers::sqrt3 : least;
}

double soundness(std::span<const Vec2> p) {
    double shortest = INFINITY, longest = 0;
    for (std::size_t k = 0; k < p.size(); ++k) {
        const double l = distance(p[k], p[(k + 1) % p.size()]);
        shortest = std::min(shortest, l);
        longest = std::max(longest, l);
    }
    return longest > 0 ? std::min(scaled_jacobian(p), 3 * shortest / longest) : 0;
}

ShapeMeasures measure_shape(std::span<const Vec2> p) {
    ShapeMeasures m;
    const std::size_t n = p.size();
    m.mean_ratio = mean_ratio(p);
    m.scaled_jacobian = scaled_jacobian(p);
    double shortest = INFINITY, longest = 0;
    m.smallest_angle = 360;
    for (std::size_t k = 0; k < n; ++k) {
        const Vec2 u = p[(k + 1) % n] - p[k], v = p[(k + n - 1) % n] - p[k];
        shortest = std::min(shortest, norm(u));
        longest = std::max(longest, norm(u));
        double angle = std::atan2(cross(u, v), dot(u, v)) * 180 / std::numbers::pi;
        if (angle < 0) angle += 360;
        m.smallest_angle = std::min(m.smallest_angle, angle);
        m.largest_angle = std::max(m.largest_angle, angle);
    }
    m.edge_ratio = shortest > 0 ? longest / shortest : INFINITY;
    const double ideal = n == 3 ? 60 : 90;
    m.skewness = std::max((m.largest_angle - ideal) / (180 - ideal), (ideal - m.smallest_angle) / ideal);
    if (n == 4)
        for (std::size_t k = 0; k < 2; ++k) {
            const Vec2 u = p[k + 1] - p[k], v = p[k + 2] - p[(k + 3) % 4];
            m.taper = std::max(m.taper, std::fabs(std::atan2(cross(u, v), dot(u, v))) * 180 / std::numbers::pi);
        }
    return m;
}

namespace {

/// Of each corner of a tetrahedron, as they turn left seen from there.
constexpr std::array<std::array<std::size_t, 3>, 4> opposite_corners{{{1, 3, 2}, {0, 2, 3}, {0, 3, 1}, {0, 1, 2}}};

}  // namespace

double volume_over_length(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) {
    const Vec3 u = b - a, v = c - a, w = d - a, x = c - b, y = d - b, z = d - c;
    const double six_volume = dot(cross(u, v), w);
    const double mean2 = (dot(u, u) + dot(v, v) + dot(w, w) + dot(x, x) + dot(y, y) + dot(z, z)) / 6;
    return std::sqrt(2.0) * six_volume / (mean2 * std::sqrt(mean2));
}

std::array<double, 2> dihedral_angles(const std::array<Vec3, 4>& p) {
    std::array<Vec3, 4> normal;  // of the side opposite to each corner, inwards
    for (std::size_t i = 0; i < 4; ++i) {
        const auto& c = opposite_corners[i];
        const Vec3 n = cross(p[c[1]] - p[c[0]], p[c[2]] - p[c[0]]);
        normal[i] = n / norm(n);
    }
    std::array<double, 2> out{10, 0};
    for (std::size_t i = 0; i < 4; ++i)
        for (std::size_t j = i + 1; j < 4; ++j) {
            const double angle = std::atan2(norm(cross(normal[i], normal[j])), -dot(normal[i], normal[j]));
            out = {std::min(out[0], angle), std::max(out[1], angle)};
        }
    return out;
}

double mean_ratio(const std::array<Vec3, 4>& p) {
    const double volume = dot(cross(p[1] - p[0], p[2] - p[0]), p[3] - p[0]) / 6;
    double edges2 = 0;
    for (std::size_t i = 0; i < 4; ++i)
        for (std::size_t j = i + 1; j < 4; ++j) edges2 += dot(p[i] - p[j], p[i] - p[j]);
    return volume > 0 ? 12 * std::pow(3 * volume, 2.0 / 3) / edges2 : 0;
}

}  // namespace dotsift
