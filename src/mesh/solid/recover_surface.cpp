#include "mesh/solid/recover_surface.hpp"

#include <algorithm>
#include <map>
#include <unordered_set>

#include "base/predicates.hpp"
#include "mesh/solid/edge_ring.hpp"

namespace dotsift {

namespace {

constexpr int most_exchanges = 200;  // for one edge or triangle
constexpr int passes = 3;            // what one exchange hinders another may free

using Triple = std::array<std::int32_t, 3>;

Triple ordered(Triple t) {
    std::sort(t.begin(), t.end());
    return t;
}

class Recovery {
  public:
    Recovery(const SurfaceMesh& surface, const std::vector<std::int32_t>& vertex, const Tetrahedralisation& mesh)
        : mesh_(whole(mesh), surface, vertex) {
        std::vector<std::int32_t> of_vertex(mesh.points().size(), -1);
        for (std::size_t p = 0; p < vertex.size(); ++p)
            of_vertex[static_cast<std::size_t>(vertex[p])] = static_cast<std::int32_t>(p);
        for (const auto& t : surface.triangles) {
            Triple own{};
            for (std::size_t i = 0; i < 3; ++i)
                own[i] = of_vertex[static_cast<std::size_t>(vertex[static_cast<std::size_t>(t.v[i])])];
            if (own[0] == own[1] || own[1] == own[2] || own[2] == own[0]) continue;
            triangles_.push_back(own);
            is_there_[ordered(own)] = false;
            for (std::size_t i = 0; i < 3; ++i) edges_.insert(pair_of(own[i], own[(i + 1) % 3]));
        }
        for (auto& e : mesh_.elements)
            for (std::size_t i = 0; i < 4; ++i) {
                const auto& c = corners_of_side[i];
                const auto at = is_there_.find(ordered({e.v[c[0]], e.v[c[1]], e.v[c[2]]}));
                if (at == is_there_.end()) continue;
                at->second = true;
                e.wall[i] = 0;
            }
    }

    void run() {
        for (int pass = 0; pass < passes; ++pass) {
            bool more = false;
            for (const Triple& t : triangles_) {
                bool& there = is_there_[ordered(t)];
                if (there) continue;
                bool edges = true;
                for (std::size_t i = 0; i < 3; ++i)
                    edges = (bring_edge(t[i], t[(i + 1) % 3]) || bring_edge(t[(i + 1) % 3], t[i])) && edges;
                there = edges && bring_triangle(t);
                more = more || !there;
            }
            if (!more) return;
        }
    }

    /// `corners`: of what lies round everything, whose points are the vertices 0 to 3.
    void give_back(const std::vector<std::int32_t>& vertex, Tetrahedralisation& mesh) {
        std::vector<std::int32_t> number(mesh_.elements.size(), -1);
        std::vector<Tetrahedralisation::Tetrahedron> all;
        for (std::size_t t = 0; t < number.size(); ++t) {
            if (!mesh_.elements[t].alive()) continue;
            number[t] = static_cast<std::int32_t>(all.size());
            all.emplace_back();
        }
        for (std::size_t t = 0; t < number.size(); ++t) {
            if (number[t] < 0) continue;
            auto& to = all[static_cast<std::size_t>(number[t])];
            for (std::size_t i = 0; i < 4; ++i) {
                const std::int32_t n = mesh_.elements[t].n[i], p = mesh_.elements[t].v[i];
                to.n[i] = n < 0 ? -1 : number[static_cast<std::size_t>(n)];
                if (static_cast<std::size_t>(p) < mesh_.on_surface) {
                    to.v[i] = vertex[static_cast<std::size_t>(p)];
                    continue;
                }
                to.v[i] = 0;
                while (mesh.point(to.v[i]) != mesh_.point(p)) ++to.v[i];
            }
        }
        mesh.set_tetrahedra(std::move(all));
    }

  private:
    /// As if everything were one body.
    static Tetrahedralisation whole(Tetrahedralisation mesh) {
        Tetrahedralisation::Within one;
        one.body = 0;
        mesh.set_within(std::vector<Tetrahedralisation::Within>(mesh.tetrahedra().size(), one));
        return mesh;
    }

    [[nodiscard]] double upright(std::int32_t a, std::int32_t b, std::int32_t c, std::int32_t d) const {
        return orientation(mesh_.point(a), mesh_.point(b), mesh_.point(c), mesh_.point(d));
    }

    /// Takes the edge between two corners away, unless the surface has it.
    bool take_edge_out(std::int32_t t, std::size_t a, std::size_t b) {
        const auto& e = mesh_.element(t);
        if (edges_.count(pair_of(e.v[a], e.v[b])) > 0 || !ring_.find(mesh_, t, a, b, 0, false)) return false;
        for (const auto& v : ring_.now())
            if (!(upright(v[0], v[1], v[2], v[3]) > 0)) return false;
        mesh_.exchange(ring_.old(), ring_.now());
        return true;
    }

    /// The line between the points on both hands of a side takes the place of that; or an edge of it, which is in the
    /// way, goes.
    bool take_side_out(std::int32_t t, std::size_t i) {
        const auto& e = mesh_.element(t);
        if (e.wall[i] >= 0 || e.n[i] < 0) return false;
        const auto& c = corners_of_side[i];
        const Triple side{e.v[c[0]], e.v[c[1]], e.v[c[2]]};
        std::int32_t far = -1;
        for (const auto v : mesh_.element(e.n[i]).v)
            if (std::find(side.begin(), side.end(), v) == side.end()) far = v;
        std::array<std::array<std::int32_t, 4>, 3> now{};
        bool clear = true;
        for (std::size_t k = 0; k < 3; ++k) {
            now[k] = {side[k], side[(k + 1) % 3], far, e.v[i]};
            clear = clear && upright(now[k][0], now[k][1], now[k][2], now[k][3]) > 0;
        }
        if (clear) {
            const std::array<std::int32_t, 2> old{t, e.n[i]};
            mesh_.exchange(old, now);
            return true;
        }
        for (std::size_t k = 0; k < 3; ++k)
            if (!(upright(now[k][0], now[k][1], now[k][2], now[k][3]) > 0) && take_edge_out(t, c[k], c[(k + 1) % 3]))
                return true;
        return false;
    }

    /// Exchanges what the line from a to b passes through, from a on.
    bool bring_edge(std::int32_t a, std::int32_t b) {
        for (int k = 0; k < most_exchanges; ++k) {
            mesh_.around(a, round_);
            if (std::any_of(round_.begin(), round_.end(), [&](auto t) { return mesh_.element(t).has(b); })) return true;
            bool changed = false;
            for (const auto t : round_) {
                const auto& e = mesh_.element(t);
                const std::size_t own = e.corner_of(a);
                const auto& c = corners_of_side[own];
                std::array<double, 3> beside{};
                for (std::size_t i = 0; i < 3; ++i) beside[i] = upright(e.v[c[i]], e.v[c[(i + 1) % 3]], b, a);
                if (!(beside[0] >= 0 && beside[1] >= 0 && beside[2] >= 0)) continue;
                const auto through = std::count(beside.begin(), beside.end(), 0.0);
                if (through > 1) return false;  // a point lies on the line
                if (through == 1) {
                    const auto i =
                        static_cast<std::size_t>(std::find(beside.begin(), beside.end(), 0.0) - beside.begin());
                    changed = take_edge_out(t, c[i], c[(i + 1) % 3]);
                } else {
                    changed = take_side_out(t, own);
                }
                break;
            }
            if (!changed) return false;
        }
        return false;
    }

    /// Takes the edges out that pass through it; its own edges are there.
    bool bring_triangle(const Triple& t) {
        for (int k = 0; k < most_exchanges; ++k) {
            bool changed = false;
            for (std::size_t at = 0; at < 3 && !changed; ++at) {
                mesh_.around(t[at], round_);
                for (const auto own : round_)
                    if (wall_on(own, t)) return true;
                for (std::size_t r = 0; r < round_.size() && !changed; ++r) changed = take_through_out(round_[r], t);
            }
            if (!changed) return false;
        }
        return false;
    }

    bool take_through_out(std::int32_t own, const Triple& t) {
        for (std::size_t i = 0; i < 4; ++i)
            for (std::size_t j = i + 1; j < 4; ++j) {
                const std::int32_t p = mesh_.element(own).v[i], q = mesh_.element(own).v[j];
                if (std::find(t.begin(), t.end(), p) != t.end() || std::find(t.begin(), t.end(), q) != t.end())
                    continue;
                const double above = upright(t[0], t[1], t[2], p), below = upright(t[0], t[1], t[2], q);
                if (!((above > 0 && below < 0) || (above < 0 && below > 0))) continue;
                const double x = upright(p, q, t[0], t[1]), y = upright(p, q, t[1], t[2]),
                             z = upright(p, q, t[2], t[0]);
                if (!((x > 0 && y > 0 && z > 0) || (x < 0 && y < 0 && z < 0))) continue;
                if (take_edge_out(own, i, j)) return true;
            }
        return false;
    }

    /// If the element has the triangle as a side, that becomes a wall.
    bool wall_on(std::int32_t own, const Triple& t) {
        auto& e = mesh_.element(own);
        if (!e.has(t[0]) || !e.has(t[1]) || !e.has(t[2])) return false;
        const std::size_t i = 6 - e.corner_of(t[0]) - e.corner_of(t[1]) - e.corner_of(t[2]);
        e.wall[i] = 0;
        if (e.n[i] < 0) return true;
        auto& beyond = mesh_.element(e.n[i]);
        for (std::size_t k = 0; k < 4; ++k)
            if (beyond.n[k] == own) beyond.wall[k] = 0;
        return true;
    }

    BodyMesh mesh_;
    std::vector<Triple> triangles_;
    std::map<Triple, bool> is_there_;
    std::unordered_set<std::uint64_t> edges_;
    EdgeRing ring_;
    std::vector<std::int32_t> round_;
};

}  // namespace

void recover_surface(const SurfaceMesh& surface, const std::vector<std::int32_t>& vertex, Tetrahedralisation& mesh) {
    Recovery recovery(surface, vertex, mesh);
    recovery.run();
    recovery.give_back(vertex, mesh);
}

}  // namespace dotsift
