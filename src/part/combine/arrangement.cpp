#include "part/combine/arrangement.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/errors.hpp"
#include "part/classify.hpp"

namespace dotsift {

namespace {

[[noreturn]] void not_plane(const Vec2& at) {
    Place place;
    place.position = at;
    throw InputError("the edges of the part cross or overlap in a way that leaves no clear faces", place,
                     "look at the shapes that meet there: do two of them only just touch?");
}

Vec2 along(const PlanarEdge& e, bool forward, double t) {
    return e.curve.point(forward ? t : 1 - t);
}

/// Sides leaving each vertex, anticlockwise. The order is that in which the curves first leave a small circle round
/// the vertex: curves that meet at their ends only cannot change places inside it, even where they are tangent.
std::vector<std::vector<EdgeSide>> rotations(const std::vector<Vec2>& vertices, const std::vector<PlanarEdge>& edges) {
    std::vector<std::vector<EdgeSide>> leaving(vertices.size());
    for (std::size_t e = 0; e < edges.size(); ++e) {
        leaving[static_cast<std::size_t>(edges[e].start)].push_back(static_cast<int>(2 * e));
        leaving[static_cast<std::size_t>(edges[e].end)].push_back(static_cast<int>(2 * e + 1));
    }
    for (std::size_t v = 0; v < vertices.size(); ++v) {
        if (leaving[v].size() < 3) continue;  // no order to find
        const Vec2& centre = vertices[v];
        double radius = INFINITY;
        for (const EdgeSide s : leaving[v]) {
            double reach = 0;
            for (const double t : {0.25, 0.5, 0.75, 1.0})
                reach = std::max(reach, distance(along(edges[static_cast<std::size_t>(s / 2)], s % 2 == 0, t), centre));
            radius = std::min(radius, 0.5 * reach);
        }
        std::vector<std::pair<double, EdgeSide>> angles;
        for (const EdgeSide s : leaving[v]) {
            const auto& e = edges[static_cast<std::size_t>(s / 2)];
            const auto out = [&](double t) { return distance(along(e, s % 2 == 0, t), centre) >= radius; };
            constexpr int steps = 64;
            int k = 1;
            while (k < steps && !out(static_cast<double>(k) / steps)) ++k;
            double low = static_cast<double>(k - 1) / steps, high = static_cast<double>(k) / steps;
            for (int i = 0; i < 60; ++i) {
                const double middle = 0.5 * (low + high);
                (out(middle) ? high : low) = middle;
            }
            const Vec2 d = along(e, s % 2 == 0, high) - centre;
            angles.emplace_back(std::atan2(d[1], d[0]), s);
        }
        std::sort(angles.begin(), angles.end());
        for (std::size_t k = 0; k < angles.size(); ++k) leaving[v][k] = angles[k].second;
    }
    return leaving;
}

struct Cycle {
    std::vector<EdgeSide> sides;
    double twice_area = 0;
    int component = 0;
    int face = -1;
};

int root(std::vector<int>& parent, int i) {
    while (parent[static_cast<std::size_t>(i)] != i) {
        auto& p = parent[static_cast<std::size_t>(i)];
        p = parent[static_cast<std::size_t>(p)];
        i = p;
    }
    return i;
}

}  // namespace

PlanarFaces trace_faces(const std::vector<Vec2>& vertices, const std::vector<PlanarEdge>& edges) {
    const auto leaving = rotations(vertices, edges);
    std::vector<std::size_t> place(2 * edges.size());
    for (const auto& list : leaving)
        for (std::size_t k = 0; k < list.size(); ++k) place[static_cast<std::size_t>(list[k])] = k;
    std::vector<int> parent(vertices.size());
    std::iota(parent.begin(), parent.end(), 0);
    for (const auto& e : edges) parent[static_cast<std::size_t>(root(parent, e.start))] = root(parent, e.end);

    const auto end_of = [&](EdgeSide s) {
        const auto& e = edges[static_cast<std::size_t>(s / 2)];
        return s % 2 == 0 ? e.end : e.start;
    };
    std::vector<Cycle> cycles;
    std::vector<int> cycle_of(2 * edges.size(), -1);
    for (std::size_t first = 0; first < cycle_of.size(); ++first) {
        if (cycle_of[first] >= 0) continue;
        Cycle c;
        const Vec2 about = edges[first / 2].curve.start();
        auto s = static_cast<EdgeSide>(first);
        do {
            cycle_of[static_cast<std::size_t>(s)] = static_cast<int>(cycles.size());
            c.sides.push_back(s);
            c.twice_area += edges[static_cast<std::size_t>(s / 2)].curve.twice_area(about) * (s % 2 == 0 ? 1 : -1);
            const auto v = static_cast<std::size_t>(end_of(s));
            const std::size_t n = leaving[v].size();
            s = leaving[v][(place[static_cast<std::size_t>(s ^ 1)] + n - 1) % n];  // the next one clockwise
        } while (s != static_cast<EdgeSide>(first));
        c.component = root(parent, edges[first / 2].start);
        cycles.push_back(std::move(c));
    }

    // Each connected piece is walked round once with its outside on the left: that cycle has the least area, and the
    // only one that is not positive.
    std::vector<int> around(vertices.size(), -1);
    for (std::size_t c = 0; c < cycles.size(); ++c) {
        int& best = around[static_cast<std::size_t>(cycles[c].component)];
        if (best < 0 || cycles[c].twice_area < cycles[static_cast<std::size_t>(best)].twice_area)
            best = static_cast<int>(c);
    }
    PlanarFaces out;
    out.loops.resize(1);
    for (std::size_t c = 0; c < cycles.size(); ++c) {
        if (around[static_cast<std::size_t>(cycles[c].component)] == static_cast<int>(c)) continue;
        if (!(cycles[c].twice_area > 0))
            not_plane(edges[static_cast<std::size_t>(cycles[c].sides.front() / 2)].curve.point(0.5));
        cycles[c].face = static_cast<int>(out.loops.size());
        out.loops.push_back({cycles[c].sides});
    }

    // The face that surrounds each piece: seen from its rightmost point, to the right, so that the search ends.
    struct Piece {
        int component;
        Vec2 rightmost;
        bool empty = true;
    };
    std::vector<Piece> pieces;
    std::vector<int> piece_of(vertices.size(), -1);
    RayCaster rays;
    for (std::size_t e = 0; e < edges.size(); ++e) {
        const int component = root(parent, edges[e].start);
        int& p = piece_of[static_cast<std::size_t>(component)];
        if (p < 0) {
            p = static_cast<int>(pieces.size());
            pieces.push_back({component, {}, true});
        }
        auto& piece = pieces[static_cast<std::size_t>(p)];
        const auto offer = [&](const Vec2& q) {
            if (piece.empty || q[0] > piece.rightmost[0]) piece.rightmost = q;
            piece.empty = false;
        };
        offer(edges[e].curve.start());
        offer(edges[e].curve.end());
        for (const double t : edges[e].curve.extremes(0)) offer(edges[e].curve.point(t));
        rays.add(edges[e].curve, static_cast<int>(e));
    }
    rays.prepare();
    std::vector<int> order(pieces.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [&](int i, int j) {
        const auto &a = pieces[static_cast<std::size_t>(i)], &b = pieces[static_cast<std::size_t>(j)];
        return std::tuple(-a.rightmost[0], a.rightmost[1], i) < std::tuple(-b.rightmost[0], b.rightmost[1], j);
    });
    for (const int i : order) {  // what lies further right is settled before
        const auto& piece = pieces[static_cast<std::size_t>(i)];
        const auto hit = rays.nearest(piece.rightmost, [&](int e) {
            return root(parent, edges[static_cast<std::size_t>(e)].start) != piece.component;
        });
        int face = 0;
        if (hit) {
            const EdgeSide seen = 2 * hit->id + (hit->rising ? 0 : 1);
            face = cycles[static_cast<std::size_t>(cycle_of[static_cast<std::size_t>(seen)])].face;
            if (face < 0) not_plane(piece.rightmost);
        }
        auto& outer = cycles[static_cast<std::size_t>(around[static_cast<std::size_t>(piece.component)])];
        outer.face = face;
        out.loops[static_cast<std::size_t>(face)].push_back(outer.sides);
    }
    out.face_of_side.resize(2 * edges.size());
    for (std::size_t s = 0; s < out.face_of_side.size(); ++s)
        out.face_of_side[s] = cycles[static_cast<std::size_t>(cycle_of[s])].face;
    return out;
}

}  // namespace dotsift
