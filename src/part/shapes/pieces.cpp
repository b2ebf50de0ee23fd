#include "part/shapes/pieces.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace dotsift {

namespace {

using std::numbers::pi;
// How far, relative to the radius, the ends of an arc may lie off the circle or ellipse that is given by its centre.
constexpr double off_curve_share = 1e-6;

/// From angle `from` onwards in the given sense to `to`, at most a full turn.
double sweep_to(double from, double to, bool clockwise) {
    double sweep = to - from;
    while (sweep <= 0) sweep += 2 * pi;
    while (sweep > 2 * pi) sweep -= 2 * pi;
    return clockwise ? sweep - 2 * pi : sweep;
}

std::optional<Curve> arc_about(const Vec2& from, const PieceSpec& p, const Vec2& a, const Vec2& b, std::size_t number,
                               Problems& problems) {
    const auto place = [&](const Vec2& q) {
        const Vec2 d = q - p.centre;
        return Vec2{{dot(d, a) / dot(a, a), dot(d, b) / dot(b, b)}};
    };
    const Vec2 u = place(from), v = place(p.to);
    for (const auto& [q, w] : {std::pair{from, u}, std::pair{p.to, v}}) {
        if (std::fabs(norm(w) - 1) <= off_curve_share) continue;
        problems.add(
            p.where,
            fmt::format("piece {}: its end ({:g}, {:g}) does not lie on the {} about ({:g}, {:g}): it is {:.3g} "
                        "times as far out",
                        number, q[0], q[1], p.kind == PieceSpec::Kind::ellipse ? "ellipse" : "circle", p.centre[0],
                        p.centre[1], norm(w)),
            "move the centre, the end, or give the arc by a point it runs through");
        return std::nullopt;
    }
    const double start = std::atan2(u[1], u[0]);
    double sweep = sweep_to(start, std::atan2(v[1], v[0]), p.clockwise);
    if (from == p.to) sweep = p.clockwise ? -2 * pi : 2 * pi;
    if (sweep == 0) sweep = p.clockwise ? -2 * pi : 2 * pi;
    Curve c = Curve::arc(p.centre, a, b, start, start + sweep);
    c.set_ends(from, p.to);
    return c;
}

}  // namespace

Curve arc_through(const Vec2& a, const Vec2& b, const Vec2& c) {
    const Vec2 u = b - a, v = c - a;
    const double d = 2 * cross(u, v);
    if (std::fabs(d) <= 1e-12 * norm(u) * norm(v)) return Curve::line(a, c);
    const Vec2 centre = a + Vec2{{v[1] * dot(u, u) - u[1] * dot(v, v), u[0] * dot(v, v) - v[0] * dot(u, u)}} / d;
    const double radius = distance(centre, a);
    const auto angle = [&](const Vec2& p) { return std::atan2(p[1] - centre[1], p[0] - centre[0]); };
    const double from = angle(a), sweep = sweep_to(from, angle(c), d < 0);
    Curve arc = Curve::arc(centre, {{radius, 0}}, {{0, radius}}, from, from + sweep);
    arc.set_ends(a, c);
    return arc;
}

Curve arc_of_bulge(const Vec2& a, const Vec2& b, double bulge) {
    const Vec2 half = (b - a) * 0.5;
    return arc_through(a, a + half - turned_left(half) * bulge, b);
}

std::optional<Curve> curve_of_piece(const Vec2& from, const PieceSpec& p, std::size_t number, Problems& problems) {
    const bool centred = p.kind == PieceSpec::Kind::arc_centre || p.kind == PieceSpec::Kind::ellipse;
    if (from == p.to && !centred && p.kind != PieceSpec::Kind::spline) {
        problems.add(p.where, fmt::format("piece {} ends where it begins, at ({:g}, {:g})", number, from[0], from[1]),
                     "remove it, or move its end");
        return std::nullopt;
    }
    switch (p.kind) {
        case PieceSpec::Kind::line:
            return Curve::line(from, p.to);
        case PieceSpec::Kind::arc_through: {
            const Curve arc = arc_through(from, p.through, p.to);
            if (!arc.straight()) return arc;
            problems.add(p.where, fmt::format("piece {}: the three points of the arc lie on a straight line", number),
                         "leave out through for a straight line");
            return std::nullopt;
        }
        case PieceSpec::Kind::arc_radius: {
            const double chord = distance(from, p.to), r = std::fabs(p.radius);
            if (chord > 2 * r * (1 + 1e-12)) {
                problems.add(
                    p.where,
                    fmt::format("piece {}: an arc of radius {:g} does not reach over {:.6g}", number, r, chord),
                    fmt::format("the radius must be at least {:.6g}", chord / 2));
                return std::nullopt;
            }
            const double height = r - std::sqrt(std::max(0.0, r * r - chord * chord / 4));
            return arc_of_bulge(from, p.to, (p.radius > 0 ? 2 : -2) * height / chord);
        }
        case PieceSpec::Kind::arc_centre: {
            const double r = distance(from, p.centre);
            if (!(r > 0)) {
                problems.add(p.where, fmt::format("piece {}: the centre of its arc is its own start", number));
                return std::nullopt;
            }
            return arc_about(from, p, {{r, 0}}, {{0, r}}, number, problems);
        }
        case PieceSpec::Kind::ellipse: {
            const Vec2 along{{std::cos(p.angle), std::sin(p.angle)}};
            return arc_about(from, p, along * p.radii[0], turned_left(along) * p.radii[1], number, problems);
        }
        case PieceSpec::Kind::spline: {
            std::vector<Vec2> points{from};
            points.insert(points.end(), p.points.begin(), p.points.end());
            points.push_back(p.to);
            for (std::size_t i = 1; i < points.size(); ++i) {
                if (!(points[i] == points[i - 1])) continue;
                problems.add(p.where,
                             fmt::format("piece {}: the spline has the point ({:g}, {:g}) twice in a row", number,
                                         points[i][0], points[i][1]),
                             "remove one of them");
                return std::nullopt;
            }
            if (from == p.to && points.size() < 4) {
                problems.add(p.where,
                             fmt::format("piece {}: a closed spline needs at least two points between", number));
                return std::nullopt;
            }
            auto nurbs = std::make_shared<const Nurbs>(spline_through(points));
            Curve c = Curve::spline(nurbs, nurbs->low(), nurbs->high());
            c.set_ends(from, p.to);
            return c;
        }
    }
    return std::nullopt;
}

}  // namespace dotsift
