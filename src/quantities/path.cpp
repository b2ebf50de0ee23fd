#include "quantities/path.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "mesh/boundary_line.hpp"

namespace dotsift {

namespace {

constexpr int pieces_of_path = 400;

double length_of_corners(const PathSpec& path) {
    double sum = 0;
    for (std::size_t k = 1; k < path.points.size(); ++k) sum += distance(path.points[k - 1], path.points[k]);
    return sum;
}

/// A place of a boundary, as its element has it.
PathPoint point_of(const Mesh& mesh, const LinePiece& piece, double share, double distance) {
    const BoundarySide& side = mesh.boundary[piece.boundary];
    const auto e = static_cast<std::size_t>(side.element);
    const Vec2 d = derivative_on(mesh, side, share);
    PathPoint p;
    p.distance = distance;
    p.position = point_on(mesh, side, share);
    p.tangent = d * ((piece.to > piece.from ? 1 : -1) / norm(d));
    p.where = Location{e, reference_on_side(mesh.kinds[e], side.side, share), 0};
    return p;
}

/// Calls act(point, weight) at the Gauss points of every side.
template <class Act>
void over_boundary(const PathSpec& path, const Mesh& mesh, Act act) {
    for (const auto& piece : boundary_line(mesh, path.follow, path.from, path.to).pieces) {
        const BoundarySide& side = mesh.boundary[piece.boundary];
        double done = piece.begin;
        for (const auto& g : line_rule()) {
            const double share = piece.from + g.t * (piece.to - piece.from);
            const double w = g.weight * norm(derivative_on(mesh, side, share)) * std::fabs(piece.to - piece.from);
            act(point_of(mesh, piece, share, done + w / 2), w);
            done += w;
        }
    }
}

/// Calls act(point, weight) at the Gauss points of short pieces.
template <class Act>
void over_path(const PathSpec& path, const ElementLocator& locator, Act act) {
    if (path.on_boundary()) return over_boundary(path, locator.mesh(), act);
    const double whole = length_of_corners(path);
    double done = 0;
    for (std::size_t k = 1; k < path.points.size(); ++k) {
        const Vec2 &a = path.points[k - 1], &b = path.points[k];
        const double length = distance(a, b);
        const int pieces = std::max(1, static_cast<int>(std::lround(pieces_of_path * length / whole)));
        for (int i = 0; i < pieces; ++i)
            for (const auto& g : line_rule()) {
                const double t = (i + g.t) / pieces;
                PathPoint p;
                p.distance = done + t * length;
                p.position = a + (b - a) * t;
                p.tangent = (b - a) / length;
                p.where = locator.find(p.position);
                if (p.where) act(p, g.weight * length / pieces);
            }
        done += length;
    }
}

ElementPoint point_at(const Mesh& mesh, const Location& where) {
    return evaluate(mesh.kinds[where.element], mesh.positions(where.element), where.xi);
}

Stress stress_on(const FieldSource& source, const PathPoint& p) {
    return recovered_stress(source.mesh, source.laws, source.fields.solution, source.fields.stress.slots,
                            p.where->element, point_at(source.mesh, *p.where));
}

}  // namespace

void for_path(const PathSpec& path, const ElementLocator& locator,
              const std::function<void(const PathPoint&, double)>& act) {
    over_path(path, locator, act);
}

double length_of(const PathSpec& path, const Mesh& mesh) {
    return path.on_boundary() ? boundary_line(mesh, path.follow, path.from, path.to).length : length_of_corners(path);
}

std::vector<PathPoint> sample_path(const PathSpec& path, const ElementLocator& locator) {
    std::vector<PathPoint> out;
    if (path.on_boundary()) {
        const Mesh& mesh = locator.mesh();
        const BoundaryLine line = boundary_line(mesh, path.follow, path.from, path.to);
        std::size_t k = 0;
        for (std::int64_t i = 0; i < path.samples && !line.pieces.empty(); ++i) {
            const double s = line.length * static_cast<double>(i) / static_cast<double>(path.samples - 1);
            while (k + 1 < line.pieces.size() && s > line.pieces[k].begin + line.pieces[k].length) ++k;
            const LinePiece& piece = line.pieces[k];
            out.push_back(point_of(mesh, piece, share_at(mesh, piece, s - piece.begin), s));
        }
        return out;
    }
    const double whole = length_of_corners(path);
    std::size_t k = 1;
    double done = 0;
    for (std::int64_t i = 0; i < path.samples; ++i) {
        const double s = whole * static_cast<double>(i) / static_cast<double>(path.samples - 1);
        while (k + 1 < path.points.size() && s > done + distance(path.points[k - 1], path.points[k])) {
            done += distance(path.points[k - 1], path.points[k]);
            ++k;
        }
        const Vec2 &a = path.points[k - 1], &b = path.points[k];
        PathPoint p;
        p.distance = s;
        p.tangent = (b - a) / distance(a, b);
        p.position = i + 1 == path.samples ? path.points.back() : a + p.tangent * (s - done);
        p.where = locator.find(p.position);
        out.push_back(p);
    }
    return out;
}

double integrate_path(const PathSpec& path, const FieldSource& source, const ElementLocator& locator,
                      const std::function<double(std::size_t, const ElementPoint&, const PathPoint&)>& value) {
    double sum = 0;
    over_path(path, locator, [&](const PathPoint& p, double w) {
        sum += w * value(p.where->element, point_at(source.mesh, *p.where), p);
    });
    return sum;
}

SectionForce section_force(const PathSpec& path, const FieldSource& source, const ElementLocator& locator) {
    SectionForce out;
    Vec2 middle;
    double length = 0;
    std::vector<std::pair<Vec2, Vec2>> forces;  // where, and how much
    over_path(path, locator, [&](const PathPoint& p, double w) {
        const auto e = p.where->element;
        const Stress t = stress_on(source, p);
        const Vec2 n = turned_left(p.tangent);
        const double depth = source.laws.depth(source.mesh.region[e], p.position);
        const Vec2 f = traction(t, n) * (w * depth);
        middle += p.position * w;
        length += w;
        out.force += f;
        forces.emplace_back(p.position, f);
    });
    if (length > 0) middle = middle / length;
    for (const auto& [at, f] : forces) out.moment += cross(at - middle, f);
    return out;
}

LinearisedStress linearise(const PathSpec& path, const FieldSource& source, const ElementLocator& locator) {
    LinearisedStress out;
    const double whole = length_of_corners(path);
    over_path(path, locator, [&](const PathPoint& p, double w) {
        const Stress t = stress_on(source, p);
        for (std::size_t c = 0; c < 4; ++c) {
            out.membrane[c] += w * t[c] / whole;
            out.bending[c] += 6 * w * t[c] * (whole / 2 - p.distance) / (whole * whole);
        }
    });
    return out;
}

std::optional<WallStress> wall_stress(const PathSpec& path, const FieldSource& source, const ElementLocator& locator) {
    if (path.points.size() != 2) return {};
    for (const auto& p : sample_path(path, locator))
        if (!p.where) return {};
    const LinearisedStress linear = linearise(path, source, locator);
    const Vec2 along = path.points[1] - path.points[0];
    const double angle = std::atan2(along[1], along[0]);
    FieldSource finest = source;
    finest.finest = true;
    const auto at_end = [&](const Vec2& point, double side) {
        const Location where = *locator.find(point);
        const ElementPoint at = point_at(source.mesh, where);
        Stress whole{};
        constexpr std::array components{Field::sxx, Field::syy, Field::sxy, Field::szz};
        for (std::size_t c = 0; c < 4; ++c) whole[c] = field_at(components[c], finest, where.element, at);
        WallStress::Parts parts;
        for (std::size_t c = 0; c < 4; ++c) {
            parts.membrane[c] = linear.membrane[c];
            parts.bending[c] = side * linear.bending[c];
            parts.linear[c] = parts.membrane[c] + parts.bending[c];
            parts.whole[c] = whole[c];
            parts.peak[c] = whole[c] - parts.linear[c];
        }
        for (Stress* t : {&parts.membrane, &parts.bending, &parts.linear, &parts.peak, &parts.whole})
            *t = turned(*t, angle);
        return parts;
    };
    return WallStress{at_end(path.points[0], 1), at_end(path.points[1], -1)};
}

}  // namespace dotsift
