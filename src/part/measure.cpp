#include "part/measure.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <numeric>

namespace dotsift {

namespace {

/// Integrals of 1, x, y, xx, yy, xy over the area, by the boundary, about an origin.
using Moments = std::array<double, 6>;

/// Green's theorem: 2 A = sum of x dy - y dx; x: x^2/2 dy; y: -y^2/2 dx; xx: x^3/3 dy; yy: -y^3/3 dx; xy: x^2 y/2 dy.
void add_curve(const Curve& c, double sign, const Vec2& origin, Moments& m) {
    const auto term = [&](auto f) {
        return sign * integrate(c, [&](double t) { return f(c.point(t) - origin, c.derivative(t)); });
    };
    m[0] += 0.5 * term([](const Vec2& p, const Vec2& d) { return cross(p, d); });
    m[1] += term([](const Vec2& p, const Vec2& d) { return p[0] * p[0] / 2 * d[1]; });
    m[2] -= term([](const Vec2& p, const Vec2& d) { return p[1] * p[1] / 2 * d[0]; });
    m[3] += term([](const Vec2& p, const Vec2& d) { return p[0] * p[0] * p[0] / 3 * d[1]; });
    m[4] -= term([](const Vec2& p, const Vec2& d) { return p[1] * p[1] * p[1] / 3 * d[0]; });
    m[5] += term([](const Vec2& p, const Vec2& d) { return p[0] * p[0] * p[1] / 2 * d[1]; });
}

AreaMeasures from(const Moments& m, const Vec2& origin, double perimeter) {
    AreaMeasures out;
    out.area = m[0];
    out.perimeter = perimeter;
    const Vec2 c = m[0] != 0 ? Vec2{{m[1] / m[0], m[2] / m[0]}} : Vec2{};
    out.centroid = origin + c;
    out.iyy = m[3] - m[0] * c[0] * c[0];
    out.ixx = m[4] - m[0] * c[1] * c[1];
    out.ixy = m[5] - m[0] * c[0] * c[1];
    return out;
}

}  // namespace

AreaMeasures measure_loop(const Part& part, const std::vector<EdgeUse>& loop) {
    Moments m{};
    double perimeter = 0;
    const Vec2 origin = part.edge(loop.front().edge).curve.start();
    for (const auto& u : loop) {
        add_curve(part.edge(u.edge).curve, u.forward ? 1 : -1, origin, m);
        perimeter += part.edge(u.edge).curve.length();
    }
    return from(m, origin, perimeter);
}

AreaMeasures measure_faces(const Part& part, const std::vector<std::size_t>& faces) {
    Moments m{};
    double perimeter = 0;
    const Vec2 origin = part.box.centre();
    std::vector<char> in(part.faces.size(), 0);
    for (const std::size_t f : faces) in[f] = 1;
    const auto counts = [&](int f) { return f >= 0 && in[static_cast<std::size_t>(f)]; };
    for (const auto& e : part.edges) {
        if (counts(e.left) == counts(e.right)) continue;
        add_curve(e.curve, counts(e.left) ? 1 : -1, origin, m);
        perimeter += e.curve.length();
    }
    return from(m, origin, perimeter);
}

AreaMeasures measure_face(const Part& part, std::size_t face) {
    return measure_faces(part, {face});
}

AreaMeasures measure(const Part& part) {
    std::vector<std::size_t> all(part.faces.size());
    std::iota(all.begin(), all.end(), std::size_t{0});
    return measure_faces(part, all);
}

PrincipalMoments principal_moments(const AreaMeasures& m) {
    const double mean = 0.5 * (m.ixx + m.iyy), half = 0.5 * (m.ixx - m.iyy), radius = std::hypot(half, m.ixy);
    // Rounding decides on no direction.
    const double angle = radius > 1e-12 * mean ? 0.5 * std::atan2(-m.ixy, half) : 0;
    return {mean + radius, mean - radius, angle <= -std::numbers::pi / 2 * (1 - 1e-12) ? -angle : angle};
}

}  // namespace dotsift
