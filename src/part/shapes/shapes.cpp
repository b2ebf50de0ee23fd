#include "part/shapes/shapes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/predicates.hpp"
#include "part/combine/contact.hpp"
#include "part/combine/split.hpp"
#include "part/part.hpp"
#include "part/shapes/pieces.hpp"

namespace dotsift {

namespace {

using std::numbers::pi;

void give_names(const ShapeSpec& shape, const std::vector<std::string>& sides, ShapeEdge& edge) {
    if (!shape.name.empty()) edge.names.push_back(shape.name);
    for (const auto& [side, name] : shape.names) {
        if (std::find(sides.begin(), sides.end(), side) == sides.end()) continue;
        if (std::find(edge.names.begin(), edge.names.end(), name) == edge.names.end()) edge.names.push_back(name);
    }
}

/// Closed segments ab and cd share a point.
bool segments_meet(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    const auto side = [](double v) { return (v > 0) - (v < 0); };
    const int c1 = side(orientation(a, b, c)), d1 = side(orientation(a, b, d)), a1 = side(orientation(c, d, a)),
              b1 = side(orientation(c, d, b));
    if (c1 * d1 < 0 && a1 * b1 < 0) return true;
    const auto on = [](const Vec2& p, const Vec2& q, const Vec2& r) {  // r on line pq: between them?
        return std::min(p[0], q[0]) <= r[0] && r[0] <= std::max(p[0], q[0]) && std::min(p[1], q[1]) <= r[1] &&
               r[1] <= std::max(p[1], q[1]);
    };
    return (c1 == 0 && on(a, b, c)) || (d1 == 0 && on(a, b, d)) || (a1 == 0 && on(c, d, a)) || (b1 == 0 && on(c, d, b));
}

/// The corners are simple: no zero-length side, no two sides that touch or cross.
bool corners_are_simple(const ShapeSpec& shape, const std::vector<Vec2>& p, Problems& problems) {
    const std::size_t n = p.size();
    for (std::size_t i = 0; i < n; ++i) {
        if (p[i] == p[(i + 1) % n]) {
            problems.add(shape.where,
                         fmt::format("corners {} and {} of the polygon are the same point ({:g}, {:g})", i + 1,
                                     (i + 1) % n + 1, p[i][0], p[i][1]),
                         "remove one of them");
            return false;
        }
    }
    for (std::size_t i = 0; i < n; ++i) {
        const Vec2 &a = p[i], &b = p[(i + 1) % n], &c = p[(i + 2) % n];
        if (orientation(a, b, c) == 0 && dot(b - a, c - b) < 0) {
            problems.add(
                shape.where,
                fmt::format("the polygon turns back on itself at corner {} ({:g}, {:g})", (i + 1) % n + 1, b[0], b[1]),
                "move the corner");
            return false;
        }
        for (std::size_t j = i + 2; j < n; ++j) {
            if (i == 0 && j == n - 1) continue;
            const Vec2 &d = p[j], &e = p[(j + 1) % n];
            if (!segments_meet(a, b, d, e)) continue;
            const double det = cross(b - a, e - d);
            const Vec2 meet = det != 0 ? a + (b - a) * (cross(d - a, e - d) / det) : d;
            problems.add(shape.where,
                         fmt::format("the outline crosses itself: side {} and side {} of the polygon meet at "
                                     "({:.6g}, {:.6g})",
                                     i + 1, j + 1, meet[0], meet[1]),
                         "give the corners in order round the polygon");
            return false;
        }
    }
    return true;
}

/// Polygon with rounded corners, anticlockwise. `given` maps a corner to the number the user gave it.
std::vector<ShapeEdge> rounded_polygon(const ShapeSpec& shape, const std::vector<Vec2>& p,
                                       const std::vector<double>& rounds, const std::vector<std::size_t>& given,
                                       const std::vector<std::vector<std::string>>& side_names, Problems& problems) {
    const std::size_t n = p.size();
    std::vector<double> reach(n, 0.0), tangent(n, 0.0);  // distance from corner to tangent point; per unit radius
    for (std::size_t i = 0; i < n; ++i) {
        const Vec2 in = p[i] - p[(i + n - 1) % n], out = p[(i + 1) % n] - p[i];
        const double turn = std::atan2(cross(in, out), dot(in, out));
        tangent[i] = std::tan(std::fabs(turn) / 2);
        reach[i] = rounds[i] * tangent[i];
    }
    bool fits = true;
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t j = (i + 1) % n;
        const double side = distance(p[i], p[j]);
        if (reach[i] + reach[j] <= side * (1 + 1e-12)) continue;  // allows full half-round ends up to rounding
        const bool equal = rounds[i] == rounds[j];
        const std::size_t worse = reach[i] >= reach[j] ? i : j, other = worse == i ? j : i;
        const double largest =
            equal ? side / (tangent[i] + tangent[j]) : std::max(0.0, side - reach[other]) / tangent[worse];
        problems.add(
            shape.where,
            fmt::format("the round of radius {:g} at corner {} ({:g}, {:g}) does not fit on a side of length {:.6g}",
                        rounds[worse], given[worse], p[worse][0], p[worse][1], side),
            fmt::format("the largest that fits there is {:.6g}", largest));
        fits = false;
    }
    if (!fits) return {};
    std::vector<ShapeEdge> edges;
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t h = (i + n - 1) % n, j = (i + 1) % n;
        const Vec2 in = (p[i] - p[h]) / distance(p[i], p[h]), out = (p[j] - p[i]) / distance(p[i], p[j]);
        Vec2 leave = p[i];
        if (reach[i] > 0) {
            const double turn = std::atan2(cross(in, out), dot(in, out));
            const double r = rounds[i];
            const Vec2 enter = p[i] - in * reach[i];
            leave = p[i] + out * reach[i];
            const Vec2 normal = turned_left(in) * (turn > 0 ? 1.0 : -1.0);
            const Vec2 centre = enter + normal * r;
            ShapeEdge arc;
            arc.curve = Curve::arc(centre, normal * -r, in * r, 0, std::fabs(turn));
            arc.curve.set_ends(enter, leave);
            give_names(shape, {fmt::format("corner{}", given[i]), "corners"}, arc);
            edges.push_back(std::move(arc));
        }
        const Vec2 next = reach[j] > 0 ? p[j] - out * reach[j] : p[j];
        if (distance(leave, next) > 1e-12 * distance(p[i], p[j])) {
            ShapeEdge line;
            line.curve = Curve::line(leave, next);
            give_names(shape, side_names[i], line);
            edges.push_back(std::move(line));
        }
    }
    for (std::size_t i = 0; i < edges.size(); ++i) {  // meet bit for bit, also where a side vanished between two rounds
        auto& next = edges[(i + 1) % edges.size()].curve;
        next.set_ends(edges[i].curve.end(), next.end());
    }
    return edges;
}

/// The edges meet at their ends only.
bool edges_are_simple(const ShapeSpec& shape, const std::vector<ShapeEdge>& edges, bool closed, Problems& problems) {
    Box2 whole;
    std::vector<Box2> boxes;
    std::vector<Stretches> stretches;
    for (const auto& e : edges) {
        boxes.push_back(e.curve.box());
        whole.add(boxes.back());
        stretches.emplace_back(e.curve);
    }
    const double tolerance = weld_share * whole.diagonal();
    const auto tell = [&](std::size_t i, std::size_t j, const Vec2& at) {
        problems.add(
            shape.where,
            i == j ? fmt::format("piece {} of the outline crosses itself at ({:.6g}, {:.6g})", i + 1, at[0], at[1])
                   : fmt::format("the outline crosses itself: piece {} and piece {} meet at ({:.6g}, {:.6g})", i + 1,
                                 j + 1, at[0], at[1]),
            closed && j == edges.size() - 1 && j == shape.pieces.size()
                ? "the last piece is the straight side that closes the outline"
                : "give the pieces in order round the outline");
        return false;
    };
    for (std::size_t i = 0; i < edges.size(); ++i)
        if (const auto at = self_contact(edges[i].curve, tolerance)) return tell(i, i, *at);
    for (const auto& [i, j] : overlapping_boxes(boxes, tolerance)) {
        const auto a = static_cast<std::size_t>(i), b = static_cast<std::size_t>(j);
        if (const auto at = contact(stretches[a], stretches[b], tolerance)) return tell(a, b, *at);
    }
    return true;
}

std::vector<ShapeEdge> rectangle(const ShapeSpec& s, Problems& problems) {
    const Vec2 along{{std::cos(s.angle), std::sin(s.angle)}}, up = turned_left(along);
    std::vector<Vec2> corners{s.corner, s.corner + along * s.size[0], s.corner + along * s.size[0] + up * s.size[1],
                              s.corner + up * s.size[1]};
    if (s.angle == 0)
        corners = {s.corner,
                   {{s.corner[0] + s.size[0], s.corner[1]}},
                   s.corner + s.size,
                   {{s.corner[0], s.corner[1] + s.size[1]}}};
    return rounded_polygon(s, corners, s.rounds, {1, 2, 3, 4}, {{"bottom"}, {"right"}, {"top"}, {"left"}}, problems);
}

std::vector<ShapeEdge> polygon(const ShapeSpec& s, Problems& problems) {
    const std::size_t n = s.corners.size();
    if (n < 3 || !corners_are_simple(s, s.corners, problems)) return {};
    double area = 0;
    for (std::size_t i = 0; i < n; ++i)
        area += cross(s.corners[i] - s.corners[0], s.corners[(i + 1) % n] - s.corners[0]);
    std::vector<Vec2> p(n);
    std::vector<double> rounds(n);
    std::vector<std::size_t> given(n);
    std::vector<std::vector<std::string>> sides(n);
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t k = area > 0 ? i : n - 1 - i;  // side i runs from corner i to the next one in this order
        p[i] = s.corners[k];
        rounds[i] = s.rounds[k];
        given[i] = k + 1;
        const std::size_t side = area > 0 ? k + 1 : (k + n - 1) % n + 1;
        sides[i] = {fmt::format("side{}", side)};
    }
    return rounded_polygon(s, p, rounds, given, sides, problems);
}

std::vector<ShapeEdge> ellipse(const ShapeSpec& s, const Vec2& a, const Vec2& b) {
    ShapeEdge edge;
    edge.curve = Curve::arc(s.centre, a, b, 0, 2 * pi);
    give_names(s, {}, edge);
    return {edge};
}

std::vector<ShapeEdge> slot(const ShapeSpec& s) {
    const double r = s.width / 2;
    const Vec2 along = (s.to - s.from) / distance(s.from, s.to), left = turned_left(along);
    std::vector<ShapeEdge> edges(4);
    edges[0].curve = Curve::line(s.from - left * r, s.to - left * r);
    edges[1].curve = Curve::arc(s.to, left * -r, along * r, 0, pi);
    edges[2].curve = Curve::line(s.to + left * r, s.from + left * r);
    edges[3].curve = Curve::arc(s.from, left * r, along * -r, 0, pi);
    for (std::size_t i : {std::size_t{1}, std::size_t{3}})
        edges[i].curve.set_ends(edges[i - 1].curve.end(), edges[(i + 1) % 4].curve.start());
    for (std::size_t i = 0; i < 4; ++i) give_names(s, {i % 2 ? "ends" : "flanks"}, edges[i]);
    return edges;
}

std::vector<ShapeEdge> chain_of_pieces(const ShapeSpec& s, Problems& problems) {
    const bool closes = s.verb != Verb::split && s.verb != Verb::mark;
    std::vector<ShapeEdge> edges;
    Vec2 from = s.start;
    for (std::size_t i = 0; i < s.pieces.size(); ++i) {
        PieceSpec piece = s.pieces[i];
        if (closes && i + 1 == s.pieces.size() &&
            distance(piece.to, s.start) <= same_point_share * distance(from, piece.to))
            piece.to = s.start;
        ShapeEdge edge;
        const auto curve = curve_of_piece(from, piece, i + 1, problems);
        if (!curve) return {};
        edge.curve = *curve;
        give_names(s, {}, edge);
        if (!piece.name.empty()) edge.names.push_back(piece.name);
        edges.push_back(std::move(edge));
        from = piece.to;
    }
    if (closes && !(from == s.start)) {
        ShapeEdge edge;
        edge.curve = Curve::line(from, s.start);
        give_names(s, {}, edge);
        edges.push_back(std::move(edge));
    }
    if (!edges_are_simple(s, edges, closes, problems)) return {};
    double area = 0;
    for (const auto& e : edges) area += e.curve.twice_area(s.start);
    if (closes && area < 0) {
        std::reverse(edges.begin(), edges.end());
        for (auto& e : edges) e.curve = e.curve.reversed();
    }
    return edges;
}

}  // namespace

std::vector<ShapeEdge> outline_of(const ShapeSpec& s, Problems& problems) {
    switch (s.primitive) {
        case Primitive::rectangle:
            return rectangle(s, problems);
        case Primitive::circle:
            return ellipse(s, {{s.radius, 0}}, {{0, s.radius}});
        case Primitive::ellipse: {
            const Vec2 along{{std::cos(s.angle), std::sin(s.angle)}};
            return ellipse(s, along * s.radii[0], turned_left(along) * s.radii[1]);
        }
        case Primitive::polygon:
            return polygon(s, problems);
        case Primitive::slot:
            return slot(s);
        case Primitive::outline:
            return chain_of_pieces(s, problems);
        case Primitive::line: {
            ShapeEdge edge;
            edge.curve = Curve::line(s.from, s.to);
            give_names(s, {}, edge);
            return {edge};
        }
        default:  // drawings and points have no outline of their own
            break;
    }
    return {};
}

}  // namespace dotsift
