#include "quantities/path.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "mesh/boundary_line.hpp"
#include "solve/acting/side_measure.hpp"

namespace dotsift {

namespace {

constexpr int pieces_of_path = 400;

template <int D>
Vec<D> corner(const PathSpec& path, std::size_t k) {
    return place_in_mesh<D>(path.points[k]);
}

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
template <int D, class Act>
void over_path(const PathSpec& path, const ElementLocatorIn<D>& locator, Act act) {
    if constexpr (D == 2)
        if (path.on_boundary()) return over_boundary(path, locator.mesh(), act);
    const double whole = length_of_corners(path);
    double done = 0;
    for (std::size_t k = 1; k < path.points.size(); ++k) {
        const Vec<D> a = corner<D>(path, k - 1), b = corner<D>(path, k);
        const double length = distance(a, b);
        const int pieces = std::max(1, static_cast<int>(std::lround(pieces_of_path * length / whole)));
        for (int i = 0; i < pieces; ++i)
            for (const auto& g : line_rule()) {
                const double t = (i + g.t) / pieces;
                PathPointIn<D> p;
                p.distance = done + t * length;
                p.position = a + (b - a) * t;
                p.tangent = (b - a) / length;
                p.where = locator.find(p.position);
                if (p.where) act(p, g.weight * length / pieces);
            }
        done += length;
    }
}

template <int D>
ElementPointIn<D> point_at(const MeshIn<D>& mesh, const LocationIn<D>& where) {
    return evaluate<D>(mesh.kinds[where.element], mesh.positions(where.element), where.xi);
}

template <int D>
StressIn<D> stress_on(const FieldSourceIn<D>& source, const PathPointIn<D>& p) {
    return recovered_stress(source.mesh, source.laws, source.fields.solution, source.fields.stress.slots,
                            p.where->element, point_at<D>(source.mesh, *p.where));
}

}  // namespace

void for_path(const PathSpec& path, const ElementLocator& locator,
              const std::function<void(const PathPoint&, double)>& act) {
    over_path<2>(path, locator, act);
}

double length_of(const PathSpec& path, const Mesh& mesh) {
    return path.on_boundary() ? boundary_line(mesh, path.follow, path.from, path.to).length : length_of_corners(path);
}

namespace {

std::vector<PathPoint> sample_boundary(const PathSpec& path, const Mesh& mesh) {
    std::vector<PathPoint> out;
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

}  // namespace

template <int D>
std::vector<PathPointIn<D>> sample_path(const PathSpec& path, const ElementLocatorIn<D>& locator) {
    if constexpr (D == 2)
        if (path.on_boundary()) return sample_boundary(path, locator.mesh());
    std::vector<PathPointIn<D>> out;
    const double whole = length_of_corners(path);
    std::size_t k = 1;
    double done = 0;
    for (std::int64_t i = 0; i < path.samples; ++i) {
        const double s = whole * static_cast<double>(i) / static_cast<double>(path.samples - 1);
        while (k + 1 < path.points.size() && s > done + distance(path.points[k - 1], path.points[k])) {
            done += distance(path.points[k - 1], path.points[k]);
            ++k;
        }
        const Vec<D> a = corner<D>(path, k - 1), b = corner<D>(path, k);
        PathPointIn<D> p;
        p.distance = s;
        p.tangent = (b - a) / distance(a, b);
        p.position = i + 1 == path.samples ? corner<D>(path, path.points.size() - 1) : a + p.tangent * (s - done);
        p.where = locator.find(p.position);
        out.push_back(p);
    }
    return out;
}

template <int D>
double integrate_path(
    const PathSpec& path, const FieldSourceIn<D>& source, const ElementLocatorIn<D>& locator,
    const std::function<double(std::size_t, const ElementPointIn<D>&, const PathPointIn<D>&)>& value) {
    double sum = 0;
    over_path<D>(path, locator, [&](const PathPointIn<D>& p, double w) {
        sum += w * value(p.where->element, point_at<D>(source.mesh, *p.where), p);
    });
    return sum;
}

SectionForce section_force(const PathSpec& path, const FieldSource& source, const ElementLocator& locator) {
    SectionForce out;
    Vec2 middle;
    double length = 0;
    std::vector<std::pair<Vec2, Vec2>> forces;  // where, and how much
    over_path<2>(path, locator, [&](const PathPoint& p, double w) {
        const auto e = p.where->element;
        const Stress t = stress_on<2>(source, p);
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

template <int D>
LinearisedStressIn<D> linearise(const PathSpec& path, const FieldSourceIn<D>& source,
                                const ElementLocatorIn<D>& locator) {
    LinearisedStressIn<D> out;
    const double whole = length_of_corners(path);
    over_path<D>(path, locator, [&](const PathPointIn<D>& p, double w) {
        const StressIn<D> t = stress_on<D>(source, p);
        for (std::size_t c = 0; c < t.size(); ++c) {
            out.membrane[c] += w * t[c] / whole;
            out.bending[c] += 6 * w * t[c] * (whole / 2 - p.distance) / (whole * whole);
        }
    });
    return out;
}

template <int D>
std::optional<WallStressIn<D>> wall_stress(const PathSpec& path, const FieldSourceIn<D>& source,
                                           const ElementLocatorIn<D>& locator) {
    using Parts = typename WallStressIn<D>::Parts;
    if (path.points.size() != 2) return {};
    for (const auto& p : sample_path<D>(path, locator))
        if (!p.where) return {};
    const auto linear = linearise<D>(path, source, locator);
    const Vec3 along = path.points[1] - path.points[0];
    FieldSourceIn<D> finest = source;
    finest.finest = true;
    const auto at_end = [&](const Vec<D>& point, double side) {
        const auto where = *locator.find(point);
        const auto at = point_at<D>(source.mesh, where);
        const StressIn<D> whole = values_at<D>(finest, where.element, at).stress;
        Parts parts;
        for (std::size_t c = 0; c < whole.size(); ++c) {
            parts.membrane[c] = linear.membrane[c];
            parts.bending[c] = side * linear.bending[c];
            parts.linear[c] = parts.membrane[c] + parts.bending[c];
            parts.whole[c] = whole[c];
            parts.peak[c] = whole[c] - parts.linear[c];
        }
        if constexpr (D == 2)
            for (Stress* t : {&parts.membrane, &parts.bending, &parts.linear, &parts.peak, &parts.whole})
                *t = turned(*t, std::atan2(along[1], along[0]));
        return parts;
    };
    return WallStressIn<D>{at_end(corner<D>(path, 0), 1), at_end(corner<D>(path, 1), -1)};
}

template std::vector<PathPointIn<2>> sample_path<2>(const PathSpec&, const ElementLocator&);
template std::vector<PathPointIn<3>> sample_path<3>(const PathSpec&, const ElementLocatorIn<3>&);
template double integrate_path<2>(
    const PathSpec&, const FieldSource&, const ElementLocator&,
    const std::function<double(std::size_t, const ElementPointIn<2>&, const PathPointIn<2>&)>&);
template double integrate_path<3>(
    const PathSpec&, const FieldSourceIn<3>&, const ElementLocatorIn<3>&,
    const std::function<double(std::size_t, const ElementPointIn<3>&, const PathPointIn<3>&)>&);
template LinearisedStressIn<2> linearise<2>(const PathSpec&, const FieldSource&, const ElementLocator&);
template LinearisedStressIn<3> linearise<3>(const PathSpec&, const FieldSourceIn<3>&, const ElementLocatorIn<3>&);
template std::optional<WallStressIn<2>> wall_stress<2>(const PathSpec&, const FieldSource&, const ElementLocator&);
template std::optional<WallStressIn<3>> wall_stress<3>(const PathSpec&, const FieldSourceIn<3>&,
                                                       const ElementLocatorIn<3>&);

}  // namespace dotsift
