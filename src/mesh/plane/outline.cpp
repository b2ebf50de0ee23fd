#include "mesh/plane/outline.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <span>
#include <unordered_map>

#include "mesh/elements/jacobian_bound.hpp"
#include "mesh/order.hpp"
#include "part/shapes/corners.hpp"

namespace dotsift {

namespace {

constexpr double least_jacobian_share = 0.1;  // of the mean, over each element
constexpr double thin_angle = 20;             // degrees; the boundary beside thinner elements is refined

double degrees_between(const Vec2& a, const Vec2& b) {
    return std::fabs(std::atan2(cross(a, b), dot(a, b))) * 180 / std::numbers::pi;
}

}  // namespace

Outline triangulate(Division division, Coarse& coarse) {
    Box2 box;
    for (const auto& p : division.points) box.add(p);
    Outline o{std::move(division), Triangulation(box), {}};
    o.vertex.assign(o.division.points.size(), -1);
    int hint = 0;
    for (const int k : hilbert_order(o.division.points)) {
        const auto i = static_cast<std::size_t>(k);
        o.vertex[i] = o.mesh.insert(o.division.points[i], o.mesh.locate(o.division.points[i], hint));
        hint = o.mesh.triangle_of(o.vertex[i]);
    }
    std::unordered_map<int, std::vector<std::size_t>> users;  // of a vertex
    for (std::size_t s = 0; s < o.division.segments.size(); ++s) {
        users[o.vertex[static_cast<std::size_t>(o.division.segments[s].from)]].push_back(s);
        users[o.vertex[static_cast<std::size_t>(o.division.segments[s].to)]].push_back(s);
    }
    for (std::size_t s = 0; s < o.division.segments.size(); ++s) {
        const auto& segment = o.division.segments[s];
        Triangulation::Obstacle obstacle;
        const int a = o.vertex[static_cast<std::size_t>(segment.from)],
                  b = o.vertex[static_cast<std::size_t>(segment.to)];
        if (a != b && o.mesh.insert_segment(a, b, static_cast<int>(s), obstacle)) continue;
        coarse.segments.push_back(s);
        coarse.reason = "two boundaries cross or touch here";
        if (obstacle.segment >= 0) coarse.segments.push_back(static_cast<std::size_t>(obstacle.segment));
        if (obstacle.vertex >= 0)
            coarse.segments.insert(coarse.segments.end(), users[obstacle.vertex].begin(), users[obstacle.vertex].end());
    }
    if (!coarse.segments.empty()) return o;
    const auto contradicted = o.mesh.mark_faces([&](int s) {
        const auto& segment = o.division.segments[static_cast<std::size_t>(s)];
        return Triangulation::SegmentSides{o.vertex[static_cast<std::size_t>(segment.from)], segment.left,
                                           segment.right};
    });
    // A chord that leaves another boundary on its wrong side.
    for (const int s : contradicted) coarse.segments.push_back(static_cast<std::size_t>(s));
    if (!contradicted.empty()) coarse.reason = "two boundaries cross or touch here";
    // Chords of a loop may even go round the other way, so that what is outside seems to be inside.
    const auto& all = o.mesh.triangles();
    const bool turned_round = std::any_of(all.begin(), all.end(), [](const auto& t) {
        return t.inside() && std::any_of(t.n.begin(), t.n.end(), [](int n) { return n < 0; });
    });
    if (turned_round) {
        coarse.reason = "the boundary bends too much within one element";
        for (std::size_t s = 0; s < o.division.segments.size(); ++s) coarse.segments.push_back(s);
    }
    return o;
}

CornerMesh corner_mesh(const Outline& o) {
    CornerMesh mesh;
    mesh.points = o.division.points;
    std::vector<std::int32_t> point_of(o.mesh.points().size(), -1);
    for (std::size_t p = 0; p < o.vertex.size(); ++p)
        point_of[static_cast<std::size_t>(o.vertex[p])] = static_cast<std::int32_t>(p);
    mesh.elements.reserve(o.mesh.triangles().size());
    for (const auto& t : o.mesh.triangles()) {
        if (!t.inside()) continue;
        CornerMesh::Element e;
        e.face = t.face;
        for (std::size_t i = 0; i < 3; ++i) {
            auto& p = point_of[static_cast<std::size_t>(t.v[i])];
            if (p < 0) {
                p = static_cast<std::int32_t>(mesh.points.size());
                mesh.points.push_back(o.mesh.point(t.v[i]));
            }
            e.v[i] = p;
            e.segment[i] = t.segment[(i + 2) % 3];
        }
        mesh.elements.push_back(e);
    }
    return mesh;
}

Coarse narrow_places(const Part& part, const Outline& o) {
    return narrow_places(o, [&](int e, int f) {
        // Every end of one with every end of the other: a closed edge has both at the same vertex.
        const auto &a = part.edge(e), &b = part.edge(f);
        for (const bool a_end : {false, true})
            for (const bool b_end : {false, true}) {
                if ((a_end ? a.end : a.start) != (b_end ? b.end : b.start) || (e == f && a_end == b_end)) continue;
                const Vec2 u = a_end ? -a.curve.derivative(1) : a.curve.derivative(0),
                           w = b_end ? -b.curve.derivative(1) : b.curve.derivative(0);
                if (degrees_between(u, w) < sharp_corner) return true;
            }
        return false;
    });
}

Coarse narrow_places(const Outline& o, const std::function<bool(int edge, int other)>& meet_sharply) {
    std::vector<std::vector<int>> edges_of(o.mesh.points().size());
    for (const auto& s : o.division.segments)
        for (const int p : {s.from, s.to})
            edges_of[static_cast<std::size_t>(o.vertex[static_cast<std::size_t>(p)])].push_back(s.edge);
    Coarse coarse;
    for (const auto& t : o.mesh.triangles()) {
        if (!t.inside()) continue;
        for (std::size_t i = 0; i < 3; ++i) {
            if (t.segment[i] < 0) continue;
            const Vec2 &p = o.mesh.point(t.v[i]), &a = o.mesh.point(t.v[(i + 1) % 3]),
                       &b = o.mesh.point(t.v[(i + 2) % 3]);
            if (!(dot(a - p, b - p) < 0)) continue;
            const auto& segment = o.division.segments[static_cast<std::size_t>(t.segment[i])];
            const auto& others = edges_of[static_cast<std::size_t>(t.v[i])];
            if (std::any_of(others.begin(), others.end(), [&](int e) { return meet_sharply(e, segment.edge); }))
                continue;
            coarse.segments.push_back(static_cast<std::size_t>(t.segment[i]));
        }
    }
    coarse.reason = "the part is narrower here than the elements can follow";
    return coarse;
}

Coarse thin_elements(const Part& part, const Outline& o) {
    const auto angle = sharpest_angles(part);
    std::vector<char> sharp(o.mesh.points().size(), 0);
    for (std::size_t v = 0; v < part.vertices.size(); ++v)
        if (angle[v] < sharp_corner) sharp[static_cast<std::size_t>(o.vertex[v])] = 1;
    const double limit = std::sin(thin_angle * std::numbers::pi / 180);
    Coarse coarse;
    for (const auto& t : o.mesh.triangles()) {
        if (!t.inside() || (t.segment[0] < 0 && t.segment[1] < 0 && t.segment[2] < 0)) continue;
        if (sharp[static_cast<std::size_t>(t.v[0])] || sharp[static_cast<std::size_t>(t.v[1])] ||
            sharp[static_cast<std::size_t>(t.v[2])])
            continue;
        std::array<double, 3> side{};
        for (std::size_t i = 0; i < 3; ++i)
            side[i] = distance(o.mesh.point(t.v[(i + 1) % 3]), o.mesh.point(t.v[(i + 2) % 3]));
        const auto longest = static_cast<std::size_t>(std::max_element(side.begin(), side.end()) - side.begin());
        const double height =
            cross(o.mesh.point(t.v[1]) - o.mesh.point(t.v[0]), o.mesh.point(t.v[2]) - o.mesh.point(t.v[0])) /
            side[longest];
        const double next_longest = std::max(side[(longest + 1) % 3], side[(longest + 2) % 3]);
        if (height >= limit * next_longest) continue;  // sine of the smallest angle
        for (std::size_t i = 0; i < 3; ++i)
            if (t.segment[i] >= 0 && side[i] >= 0.9 * next_longest)
                coarse.segments.push_back(static_cast<std::size_t>(t.segment[i]));
    }
    coarse.reason = "the part is narrower here than the elements can follow";
    return coarse;
}

namespace {

/// An element that its curved sides spoil, though with straight ones it would be sound.
bool spoilt(const Mesh& mesh, std::size_t e) {
    if (polynomial_degree(mesh.kinds[e]) == 1) return false;
    const auto positions = mesh.positions(e);
    if (is_straight(mesh.kinds[e], positions)) return false;
    const auto corners = static_cast<std::size_t>(corner_count(mesh.kinds[e]));
    const double straight = jacobian_bound(kind_of(static_cast<int>(corners), 1), std::span(positions).first(corners));
    return jacobian_bound(mesh.kinds[e], positions) < std::min(least_jacobian_share, straight / 2);
}

}  // namespace

Coarse bent_elements(const Mesh& mesh, const Division& division, const Part& part) {
    Coarse coarse;
    coarse.reason = "the boundary bends too much within one element";
    std::vector<std::size_t> curved;  // segments
    for (std::size_t s = 0; s < division.segments.size(); ++s)
        if (division.segments[s].edge >= 0 && !part.edge(division.segments[s].edge).curve.straight())
            curved.push_back(s);
    if (curved.empty()) return coarse;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (!spoilt(mesh, e)) continue;
        // The curved segment that is nearest; rows of layers pass its bend on to elements farther away.
        const Vec2 centre = mesh.centre_of(e);
        std::size_t best = curved.front();
        double least = INFINITY;
        for (const std::size_t s : curved) {
            const Vec2 &from = division.points[static_cast<std::size_t>(division.segments[s].from)],
                       &to = division.points[static_cast<std::size_t>(division.segments[s].to)];
            const double d = distance(nearest_on_segment(centre, from, to), centre);
            if (d >= least) continue;
            least = d;
            best = s;
        }
        coarse.segments.push_back(best);
    }
    return coarse;
}

std::vector<SizeSource> halved(const Coarse& coarse, const Division& division) {
    std::vector<SizeSource> sources;
    for (const std::size_t s : coarse.segments) {
        const auto& segment = division.segments[s];
        SizeSource source;
        source.corners = {division.points[static_cast<std::size_t>(segment.from)],
                          division.points[static_cast<std::size_t>(segment.to)],
                          {}};
        source.form = SizeSource::Form::segment;
        source.size = distance(source.corners[0], source.corners[1]) / 2;
        if (source.size > 0) sources.push_back(source);
    }
    return sources;
}

}  // namespace dotsift
