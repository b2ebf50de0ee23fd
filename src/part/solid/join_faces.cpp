#include "part/solid/join_faces.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "part/solid/chart.hpp"

namespace dotsift {

namespace {

// Of a curve's length: middles nearer to it than this lie on it.
constexpr double on_curve_share = 1e-6;

/// An edge as one face runs along it, and the use that follows in its loop.
struct LoopUse {
    EdgeUse use;
    int face = 0, next = 0, previous = 0;
    bool gone = false;
};

class Joining {
  public:
    Joining(SolidPart& part, std::vector<int>& kin, const std::vector<char>& fixed)
        : part_(part), kin_(kin), fixed_(fixed) {}

    void run() {
        read_loops();
        drop_edges();
        join_edges();
        write_faces();
        leave_out_unused();
    }

  private:
    [[nodiscard]] LoopUse& at(int u) { return uses_[static_cast<std::size_t>(u)]; }
    [[nodiscard]] int face_root(int f) const {
        while (root_[static_cast<std::size_t>(f)] != f) f = root_[static_cast<std::size_t>(f)];
        return f;
    }

    void read_loops() {
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            root_.push_back(static_cast<int>(f));
            for (const auto& loop : part_.faces[f].loops) {
                const int first = static_cast<int>(uses_.size()), count = static_cast<int>(loop.size());
                for (int k = 0; k < count; ++k)
                    uses_.push_back({loop[static_cast<std::size_t>(k)], static_cast<int>(f), first + (k + 1) % count,
                                     first + (k + count - 1) % count});
            }
        }
        users_.resize(part_.edges.size());
        for (std::size_t u = 0; u < uses_.size(); ++u)
            users_[static_cast<std::size_t>(uses_[u].use.edge)].push_back(static_cast<int>(u));
    }

    /// The loops of both faces become one loop round the edge, or one loop becomes two.
    void drop_edges() {
        for (const auto& users : users_) {
            if (users.size() != 2) continue;
            LoopUse &a = at(users[0]), &b = at(users[1]);
            const auto &f = part_.faces[static_cast<std::size_t>(a.face)],
                       &g = part_.faces[static_cast<std::size_t>(b.face)];
            if (a.use.forward == b.use.forward || f.behind != g.behind || f.before != g.before ||
                kin_[static_cast<std::size_t>(a.face)] != kin_[static_cast<std::size_t>(b.face)])
                continue;
            at(a.previous).next = b.next;
            at(b.next).previous = a.previous;
            at(b.previous).next = a.next;
            at(a.next).previous = b.previous;
            a.gone = b.gone = true;
            const int x = face_root(a.face), y = face_root(b.face);
            root_[static_cast<std::size_t>(std::max(x, y))] = std::min(x, y);
        }
    }

    /// Edges that follow each other on one curve, with nothing else at the vertex between them.
    void join_edges() {
        std::vector<std::vector<int>> edges_at(part_.vertices.size());
        for (std::size_t e = 0; e < part_.edges.size(); ++e) {
            const bool used = std::any_of(users_[e].begin(), users_[e].end(), [&](int u) { return !at(u).gone; });
            if (!used) continue;
            edges_at[static_cast<std::size_t>(part_.edges[e].start)].push_back(static_cast<int>(e));
            edges_at[static_cast<std::size_t>(part_.edges[e].end)].push_back(static_cast<int>(e));
        }
        for (std::size_t v = 0; v < edges_at.size(); ++v) {
            if (edges_at[v].size() != 2 || fixed_[v] || edges_at[v][0] == edges_at[v][1]) continue;
            join_at(static_cast<int>(v), edges_at[v][0], edges_at[v][1], edges_at);
        }
    }

    void join_at(int v, int first, int second, std::vector<std::vector<int>>& edges_at) {
        SolidEdge &a = part_.edges[static_cast<std::size_t>(first)], &b = part_.edges[static_cast<std::size_t>(second)];
        const bool a_ends = a.end == v, b_starts = b.start == v;
        const CurveIn<3> x = a_ends ? a.curve : a.curve.reversed(), y = b_starts ? b.curve : b.curve.reversed();
        if (x.start() == y.end()) return;  // a closed one needs a place to begin
        if (x.straight() && y.straight() && !on_line(x.end(), x.start(), y.end())) return;
        const auto joined = CurveIn<3>::joined(x, y);
        if (!joined || !lies_on(x.point(0.5), *joined) || !lies_on(y.point(0.5), *joined)) return;
        const int from = a_ends ? a.start : a.end, to = b_starts ? b.end : b.start;
        a.curve = *joined;
        a.start = from;
        a.end = to;
        // Each use of the second goes; those of the first run along both.
        for (const int u : users_[static_cast<std::size_t>(first)])
            if (!a_ends) at(u).use.forward = !at(u).use.forward;
        for (const int u : users_[static_cast<std::size_t>(second)]) {
            if (at(u).gone) continue;
            at(at(u).previous).next = at(u).next;
            at(at(u).next).previous = at(u).previous;
            at(u).gone = true;
        }
        for (int& e : edges_at[static_cast<std::size_t>(to)])
            if (e == second) e = first;
    }

    [[nodiscard]] static bool on_line(const Vec3& p, const Vec3& a, const Vec3& b) {
        const Vec3 d = b - a;
        return norm(cross(p - a, d)) <= on_curve_share * dot(d, d) && dot(p - a, p - b) < 0;
    }
    [[nodiscard]] static bool lies_on(const Vec3& p, const CurveIn<3>& curve) {
        return distance(curve.point(curve.project(p)), p) <= on_curve_share * curve.length();
    }

    void write_faces() {
        std::vector<std::vector<std::vector<EdgeUse>>> loops(part_.faces.size());
        std::vector<char> seen(uses_.size(), 0);
        for (std::size_t u = 0; u < uses_.size(); ++u) {
            if (seen[u] || uses_[u].gone) continue;
            std::vector<EdgeUse> loop;
            int k = static_cast<int>(u);
            do {
                seen[static_cast<std::size_t>(k)] = 1;
                loop.push_back(at(k).use);
                k = at(k).next;
            } while (k != static_cast<int>(u));
            loops[static_cast<std::size_t>(face_root(uses_[u].face))].push_back(std::move(loop));
        }
        std::vector<SolidFace> faces;
        std::vector<int> kin;
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            if (root_[f] != static_cast<int>(f)) continue;
            SolidFace face = std::move(part_.faces[f]);
            face.loops = std::move(loops[f]);
            outer_first(face);
            faces.push_back(std::move(face));
            kin.push_back(kin_[f]);
        }
        part_.faces = std::move(faces);
        kin_ = std::move(kin);
    }

    /// The outer loop is the one that goes round the face's material the positive way.
    void outer_first(SolidFace& face) const {
        if (face.loops.size() < 2) return;
        const Chart chart(face.surface);
        constexpr int steps = 8;
        std::vector<double> area;
        Vec2 beside;
        for (const auto& loop : face.loops) {
            std::vector<Vec2> line;
            for (const EdgeUse& use : loop) {
                const auto& curve = part_.edge(use.edge).curve;
                for (int k = 0; k < steps; ++k) {
                    const double t = static_cast<double>(k) / steps;
                    beside = face.surface.project(curve.point(use.forward ? t : 1 - t), beside);
                    line.push_back(chart.flat(beside));
                }
            }
            double sum = 0;
            for (std::size_t k = 0; k < line.size(); ++k)
                sum += cross(line[k] - line[0], line[(k + 1) % line.size()] - line[0]);
            area.push_back(sum);
        }
        const auto outer = std::max_element(area.begin(), area.end()) - area.begin();
        std::swap(face.loops[0], face.loops[static_cast<std::size_t>(outer)]);
    }

    void leave_out_unused() {
        std::vector<int> edge(part_.edges.size(), -1), vertex(part_.vertices.size(), -1);
        std::vector<SolidEdge> edges;
        std::vector<Vec3> vertices;
        const auto take_vertex = [&](int v) {
            int& n = vertex[static_cast<std::size_t>(v)];
            if (n < 0) {
                n = static_cast<int>(vertices.size());
                vertices.push_back(part_.vertices[static_cast<std::size_t>(v)]);
            }
            return n;
        };
        for (auto& f : part_.faces)
            for (auto& loop : f.loops)
                for (auto& use : loop) {
                    int& n = edge[static_cast<std::size_t>(use.edge)];
                    if (n < 0) {
                        n = static_cast<int>(edges.size());
                        edges.push_back(part_.edge(use.edge));
                        edges.back().start = take_vertex(edges.back().start);
                        edges.back().end = take_vertex(edges.back().end);
                    }
                    use.edge = n;
                }
        for (auto& p : part_.points) p.vertex = vertex[static_cast<std::size_t>(p.vertex)];
        part_.edges = std::move(edges);
        part_.vertices = std::move(vertices);
    }

    SolidPart& part_;
    std::vector<int>& kin_;
    const std::vector<char>& fixed_;
    std::vector<LoopUse> uses_;
    std::vector<std::vector<int>> users_;  ///< of each edge
    std::vector<int> root_;                ///< of each face, the one that it is joined with
};

}  // namespace

void join_faces(SolidPart& part, std::vector<int>& kin, const std::vector<char>& fixed) {
    Joining(part, kin, fixed).run();
}

}  // namespace dotsift
