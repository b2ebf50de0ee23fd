#include "part/shapes/corners.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <optional>

#include "base/errors.hpp"
#include "part/combine/combine.hpp"
#include "part/combine/contact.hpp"
#include "part/combine/split.hpp"

namespace dotsift {

namespace {

constexpr double to_degrees = 180 / std::numbers::pi;
// An edge may be used up to its very end by a round; this share of it counts as rounding.
constexpr double end_share = 1e-9;

Curve run(const Part& part, const EdgeUse& use) {
    const Curve& c = part.edge(use.edge).curve;
    return use.forward ? c : c.reversed();
}

struct Cut {
    double t_in, t_out;  ///< where the curves are cut off
    Curve curve;
};

/// The circle of a radius that touches both curves near their common end, followed from radius 0 so that it is the
/// one in the corner; Newton's method on the distance of the two offset points.
std::optional<Cut> round_between(const Curve& in, const Curve& out, double radius) {
    const double side = cross(in.derivative(1), out.derivative(0)) > 0 ? 1 : -1;
    double a = 1, b = 0;
    constexpr int steps = 16;
    const auto offset = [&](const Curve& c, double t, double r, Vec2& slope) {
        const Vec2 d = c.derivative(t), dd = c.second_derivative(t);
        const double speed = norm(d);
        slope = d * (1 - side * r * cross(d, dd) / (speed * speed * speed));
        return c.point(t) + turned_left(d) * (side * r / speed);
    };
    for (int k = 1; k <= steps; ++k) {
        const double r = radius * k / steps;
        bool settled = false;
        for (int i = 0; i < 30 && !settled; ++i) {
            Vec2 slope_in, slope_out;
            const Vec2 gap = offset(in, a, r, slope_in) - offset(out, b, r, slope_out);
            const double det = -cross(slope_in, slope_out);
            if (!(std::fabs(det) > 0)) return std::nullopt;
            const double da = -cross(gap, slope_out) / -det, db = cross(slope_in, gap) / -det;
            a += da;
            b += db;
            if (!std::isfinite(a) || !std::isfinite(b) || a < -end_share || a > 1 + end_share || b < -end_share ||
                b > 1 + end_share)
                return std::nullopt;
            a = std::clamp(a, 0.0, 1.0);
            b = std::clamp(b, 0.0, 1.0);
            settled = std::fabs(da) + std::fabs(db) <= 1e-14;
        }
    }
    const Vec2 d = in.derivative(a) / norm(in.derivative(a)), e = out.derivative(b);
    const Vec2 enter = in.point(a), leave = out.point(b);
    const Vec2 centre = enter + turned_left(d) * (side * radius);
    if (std::fabs(distance(centre, leave) - radius) > 1e-7 * radius) return std::nullopt;
    const double turn = std::fabs(std::atan2(cross(d, e), dot(d, e)));
    Cut cut{a, b, Curve::arc(centre, enter - centre, d * radius, 0, turn)};
    cut.curve.set_ends(enter, leave);
    return cut;
}

/// The parameter at which `length` is left to the end.
std::optional<double> before_end(const Curve& c, double length) {
    const double whole = c.length();
    if (length > whole * (1 + end_share)) return std::nullopt;
    double low = 0, high = 1;
    for (int k = 0; k < 60; ++k) {
        const double middle = 0.5 * (low + high);
        (c.piece(middle, 1).length() > length ? low : high) = middle;
    }
    return 0.5 * (low + high);
}

std::optional<Cut> bevel_between(const Curve& in, const Curve& out, double length) {
    const auto a = before_end(in, length), b = before_end(out.reversed(), length);
    if (!a || !b) return std::nullopt;
    return Cut{*a, 1 - *b, Curve::line(in.point(*a), out.point(1 - *b))};
}

/// The trimmed edges and the new curves; nothing, with the corner in `faulty`, if one does not fit.
struct Trimmed {
    Part part;
    std::map<int, NamedCurve> corners;
};

std::optional<Trimmed> trim(const Part& part, const std::vector<Corner>& corners, const CornerChange& change,
                            double size, std::size_t& faulty) {
    Trimmed t{part, {}};
    std::vector<std::array<int, 2>> neighbours;
    for (std::size_t k = 0; k < corners.size(); ++k) {
        const Corner& c = corners[k];
        faulty = k;
        const Curve in = run(t.part, c.in), out = run(t.part, c.out);
        const auto cut = change.bevel ? bevel_between(in, out, size) : round_between(in, out, size);
        if (!cut) return std::nullopt;
        Curve shorter_in = in.piece(0, cut->t_in), shorter_out = out.piece(cut->t_out, 1);
        shorter_in.set_ends(in.start(), cut->curve.start());
        shorter_out.set_ends(cut->curve.end(), out.end());
        t.part.edges[static_cast<std::size_t>(c.in.edge)].curve = c.in.forward ? shorter_in : shorter_in.reversed();
        t.part.edges[static_cast<std::size_t>(c.out.edge)].curve = c.out.forward ? shorter_out : shorter_out.reversed();
        NamedCurve named{cut->curve, {}};
        if (!change.name.empty()) named.names.push_back(change.name);
        t.corners[c.vertex] = std::move(named);
        neighbours.push_back({c.in.edge, c.out.edge});
    }
    // The new curves may touch nothing else.
    const double weld = weld_share * part.box.diagonal();
    std::vector<Box2> boxes;
    for (const auto& e : t.part.edges) boxes.push_back(e.curve.box());
    for (std::size_t k = 0; k < corners.size(); ++k) {
        faulty = k;
        const Curve& arc = t.corners[corners[k].vertex].curve;
        const Stretches stretches(arc);
        const Box2 box = arc.box();
        for (std::size_t e = 0; e < boxes.size(); ++e) {
            if (boxes[e].low[0] > box.high[0] || boxes[e].high[0] < box.low[0] || boxes[e].low[1] > box.high[1] ||
                boxes[e].high[1] < box.low[1])
                continue;
            const auto i = static_cast<int>(e);
            if (neighbours[k][0] == i || neighbours[k][1] == i) continue;
            if (contact(stretches, Stretches(t.part.edges[e].curve), weld)) return std::nullopt;
        }
        for (std::size_t j = 0; j < k; ++j)
            if (contact(stretches, Stretches(t.corners[corners[j].vertex].curve), weld)) return std::nullopt;
    }
    return t;
}

}  // namespace

std::vector<Corner> corners_of(const Part& part, double smooth) {
    std::vector<std::vector<EdgeUse>> into(part.vertices.size());  // edges, run towards the vertex
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        into[static_cast<std::size_t>(part.edges[e].end)].push_back({static_cast<int>(e), true});
        into[static_cast<std::size_t>(part.edges[e].start)].push_back({static_cast<int>(e), false});
    }
    std::vector<Corner> corners;
    for (std::size_t v = 0; v < into.size(); ++v) {
        if (into[v].size() != 2) continue;
        EdgeUse in = into[v][0], out = into[v][1];
        if (!in.forward || (in.forward && out.forward && in.edge > out.edge)) std::swap(in, out);
        out.forward = !out.forward;
        const Vec2 d = run(part, in).derivative(1), e = run(part, out).derivative(0);
        const double turn = std::atan2(cross(d, e), dot(d, e)) * to_degrees;
        if (std::fabs(turn) <= smooth) continue;
        const bool outline = !part.edge(in.edge).interior();
        corners.push_back({static_cast<int>(v), in, out, outline ? 180 - turn : 180 - std::fabs(turn)});
    }
    return corners;
}

std::vector<double> sharpest_angles(const Part& part) {
    struct Leaving {
        double direction;
        int face;  ///< on the left of the edge as it leaves
    };
    std::vector<std::vector<Leaving>> leaving(part.vertices.size());
    const auto add = [&](int v, const Vec2& d, int face) {
        leaving[static_cast<std::size_t>(v)].push_back({std::atan2(d[1], d[0]), face});
    };
    for (const auto& e : part.edges) {
        add(e.start, e.curve.derivative(0), e.left);
        add(e.end, -e.curve.derivative(1), e.right);
    }
    std::vector<double> angle(part.vertices.size(), 360);
    for (std::size_t v = 0; v < leaving.size(); ++v) {
        auto& list = leaving[v];
        std::sort(list.begin(), list.end(), [](const auto& a, const auto& b) { return a.direction < b.direction; });
        for (std::size_t k = 0; k < list.size(); ++k) {
            if (list[k].face < 0) continue;
            double gap = (k + 1 < list.size() ? list[k + 1].direction : list[0].direction + 2 * std::numbers::pi) -
                         list[k].direction;
            angle[v] = std::min(angle[v], gap * to_degrees);
        }
    }
    return angle;
}

Part change_corners(const Part& part, const std::vector<Corner>& corners, const CornerChange& change) {
    std::size_t faulty = 0;
    const auto trimmed = trim(part, corners, change, change.size, faulty);
    if (!trimmed) {
        const std::size_t first = faulty;
        double low = 0, high = change.size;
        for (int k = 0; k < 50; ++k) {
            const double middle = 0.5 * (low + high);
            (trim(part, corners, change, middle, faulty) ? low : high) = middle;
        }
        const Vec2& at = part.vertex(corners[first].vertex);
        Place place;
        place.position = at;
        const char* what = change.bevel ? "bevel" : "round";
        throw InputError(fmt::format("a {} of {:g} does not fit at the corner ({:.6g}, {:.6g}) between {} and {}", what,
                                     change.size, at[0], at[1], part.name_of_edge(corners[first].in.edge),
                                     part.name_of_edge(corners[first].out.edge)),
                         place,
                         fmt::format("the largest that fits {} is {:.6g}",
                                     corners.size() == 1 ? "there" : "at all of these corners", low));
    }
    return combine(steps_of(trimmed->part, {}, trimmed->corners), part.regions).part;
}

}  // namespace dotsift
