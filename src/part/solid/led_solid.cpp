#include "part/solid/led_solid.hpp"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "base/errors.hpp"
#include "part/combine/combine.hpp"
#include "part/solid/combine_solids.hpp"
#include "part/solid/from_plane.hpp"
#include "part/solid/placed_solid.hpp"

namespace dotsift {

namespace {

constexpr double smooth_enough = 1e-6;  // sine of the angle between pieces of a path
constexpr double upright = 1 - 1e-9;    // cosine to z of a path that begins along it

std::string place_text(const Vec3& p) {
    return fmt::format("({:.6g}, {:.6g}, {:.6g})", p[0], p[1], p[2]);
}

struct ArcPiece {
    Vec3 centre, axis;  ///< turns the right-handed way about the axis
    double angle = 0;
    Vec3 tangent;  ///< where it begins
};

ArcPiece arc_through(const Vec3& from, const Vec3& through, const Vec3& to) {
    const Vec3 a = through - from, b = to - from;
    const Vec3 n = cross(a, b);
    const double size = std::max(norm(a), norm(b)), area = norm(n);
    if (!(area > smooth_enough * size * size))
        throw InputError(fmt::format("the arc from {} to {} is straight", place_text(from), place_text(to)), {},
                         "leave out through, or move it off the line");
    ArcPiece arc;
    // The centre of the circle through three points.
    arc.centre = from + (cross(cross(a, b), a) * dot(b, b) + cross(b, cross(a, b)) * dot(a, a)) / (2 * area * area);
    arc.axis = n / area;
    const Vec3 out = from - arc.centre;
    arc.tangent = cross(arc.axis, out) / norm(out);
    const Vec3 end = to - arc.centre;
    arc.angle = std::atan2(dot(end, arc.tangent), dot(end, out) / norm(out));
    if (arc.angle <= 0) arc.angle += 2 * std::numbers::pi;
    return arc;
}

/// Where the part stands on its way.
struct Stand {
    Vec3 at, x, y, along;
};

Stand first_stand(const Vec3& at, const Vec3& along) {
    const Vec3 up = std::fabs(along[2]) < upright ? Vec3{{0, 0, 1}} : Vec3{{0, 1, 0}};
    Stand s;
    s.at = at;
    s.along = along;
    s.y = up - along * dot(up, along);
    s.y = s.y / norm(s.y);
    s.x = cross(s.y, along);
    return s;
}

SolidPart drawn_piece(const Part& part, const Stand& s, double length, const SweepNames& names) {
    AffineIn<3> map;
    map.column = {s.x, s.y, s.along};
    map.shift = s.at;
    return placed(drawn_solid(part, 0, length, names), map);
}

/// Mirrored so that the arc's axis is its line x = 0, and turned about that.
SolidPart turned_piece(const Part& part, const Stand& s, const ArcPiece& arc, const SweepNames& names) {
    const Vec3 to = arc.centre - s.at;
    const double radius = norm(to), c = dot(to, s.x) / radius, d = dot(to, s.y) / radius;
    const Affine flat{{{-c, -d}}, {{-d, c}}, {{radius, 0}}};
    const Part mirrored = combine(steps_of(part, flat), part.regions).part;
    if (!(mirrored.box.low[0] > 0))
        throw InputError(fmt::format("the arc that begins at {} has a radius of {:.4g}, but the shape reaches {:.4g} "
                                     "towards its centre",
                                     place_text(s.at), radius, radius - mirrored.box.low[0]),
                         {}, "bend the path less, or make the shape narrower");
    AffineIn<3> map;
    map.column = {-(s.x * c + s.y * d), s.y * c - s.x * d, -s.along};
    map.shift = arc.centre;
    return placed(turned_solid(mirrored, arc.angle, names), map);
}

}  // namespace

SolidPart led_solid(const Part& part, const SweepSpec& sweep) {
    std::vector<SolidStep> steps;
    Stand stand;
    stand.at = sweep.path_start;
    for (std::size_t k = 0; k < sweep.path.size(); ++k) {
        const PathPiece& piece = sweep.path[k];
        const bool first = k == 0, last = k + 1 == sweep.path.size();
        const SweepNames names{first ? sweep.start : "", last ? sweep.end : ""};
        const Vec3 way = piece.to - stand.at;
        if (!(norm(way) > 0))
            throw InputError(fmt::format("the path stays at {}", place_text(stand.at)), {}, "remove that piece");
        std::optional<ArcPiece> arc;
        if (piece.through) arc = arc_through(stand.at, *piece.through, piece.to);
        const Vec3 along = arc ? arc->tangent : way / norm(way);
        if (first)
            stand = first_stand(stand.at, along);
        else if (dot(along, stand.along) <= 0 || norm(cross(along, stand.along)) > smooth_enough)
            throw InputError(fmt::format("the path has a corner at {}", place_text(stand.at)), {},
                             "put an arc there, which begins in the direction of the piece before it");
        SolidStep step;
        step.copies.push_back(arc ? turned_piece(part, stand, *arc, names)
                                  : drawn_piece(part, stand, norm(way), names));
        steps.push_back(std::move(step));
        if (arc) {
            const auto turn = AffineIn<3>::rotation(arc->angle, {arc->centre, arc->centre + arc->axis});
            stand = {piece.to, turn.turned(stand.x), turn.turned(stand.y), turn.turned(stand.along)};
        }
        stand.at = piece.to;
    }
    if (steps.size() == 1) return std::move(steps.front().copies.front());
    return combine_solids(steps, part.regions).part;
}

}  // namespace dotsift
