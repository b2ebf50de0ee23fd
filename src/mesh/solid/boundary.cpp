#include "mesh/solid/boundary.hpp"

#include <algorithm>
#include <unordered_map>
#include <unordered_set>

#include "base/errors.hpp"
#include "base/predicates.hpp"
#include "mesh/solid/recover_surface.hpp"

namespace dotsift {

namespace {

using Triple = std::array<std::int32_t, 3>;

Triple sorted(Triple t) {
    std::sort(t.begin(), t.end());
    return t;
}

std::uint64_t mixed(std::uint64_t a, std::uint64_t b) {
    return (a ^ (b + 0x9E3779B97F4A7C15ULL + (a << 6) + (a >> 2))) * 0xBF58476D1CE4E5B9ULL;
}

struct HashOfTriple {
    std::size_t operator()(const Triple& t) const {
        return mixed(mixed(static_cast<std::uint32_t>(t[0]), static_cast<std::uint32_t>(t[1])),
                     static_cast<std::uint32_t>(t[2]));
    }
};

std::uint64_t edge_key(std::int32_t a, std::int32_t b) {
    return static_cast<std::uint64_t>(static_cast<std::uint32_t>(a)) << 32 | static_cast<std::uint32_t>(b);
}

class Boundary {
  public:
    Boundary(const SolidPart& part, SurfaceMesh& surface, const std::vector<std::int32_t>& vertex,
             Tetrahedralisation& mesh)
        : part_(part), surface_(surface), vertex_(vertex), mesh_(mesh) {
        find_edges();
        for (const auto& p : surface.pieces) on_edges_.insert(pair_of(vertex_of(p.from), vertex_of(p.to)));
    }

    void run(bool recover, CoarsePlaces& coarse) {
        match_diagonals();
        if (find_walls(coarse)) return;
        if (!recover) return;
        recover_surface(surface_, vertex_, mesh_);
        find_edges();
        coarse = {};
        find_walls(coarse);
    }

  private:
    void find_edges() {
        edges_.clear();
        for (const auto& t : mesh_.tetrahedra()) {
            if (!t.alive()) continue;
            for (std::size_t i = 0; i < 4; ++i)
                for (std::size_t j = i + 1; j < 4; ++j) edges_.insert(pair_of(t.v[i], t.v[j]));
        }
    }

    /// False if some triangle is missing.
    bool find_walls(CoarsePlaces& coarse) {
        std::unordered_map<Triple, std::int32_t, HashOfTriple> triangle;
        triangle.reserve(2 * surface_.triangles.size());
        for (std::size_t k = 0; k < surface_.triangles.size(); ++k)
            triangle.emplace(sorted(vertices(k)), static_cast<std::int32_t>(k));
        std::vector<char> found(surface_.triangles.size(), 0);
        std::vector<Tetrahedralisation::Within> within(mesh_.tetrahedra().size());
        for (std::size_t k = 0; k < within.size(); ++k) {
            const auto& t = mesh_.tetrahedra()[k];
            if (!t.alive()) continue;
            for (std::size_t i = 0; i < 4; ++i) {
                const auto& c = corners_of_side[i];
                const auto at = triangle.find(sorted({t.v[c[0]], t.v[c[1]], t.v[c[2]]}));
                if (at == triangle.end()) continue;
                found[static_cast<std::size_t>(at->second)] = 1;
                within[k].wall[i] = surface_.triangles[static_cast<std::size_t>(at->second)].face;
            }
        }
        for (std::size_t k = 0; k < found.size(); ++k)
            if (!found[k]) tell_missing(k, coarse);
        if (!coarse.finer.empty()) return false;
        give_bodies(triangle, within);
        mesh_.set_within(std::move(within));
        return true;
    }

    [[nodiscard]] std::int32_t vertex_of(std::int32_t point) const { return vertex_[static_cast<std::size_t>(point)]; }
    [[nodiscard]] Triple vertices(std::size_t triangle) const {
        const auto& v = surface_.triangles[triangle].v;
        return {vertex_of(v[0]), vertex_of(v[1]), vertex_of(v[2])};
    }
    [[nodiscard]] bool has_edge(std::int32_t a, std::int32_t b) const { return edges_.count(pair_of(a, b)) > 0; }
    [[nodiscard]] const Vec3& point(std::int32_t p) const { return surface_.points[static_cast<std::size_t>(p)]; }

    /// Both triangles of a missing edge become those of the other diagonal, if that is there. Each time one missing
    /// edge less, so that it ends.
    void match_diagonals() {
        std::unordered_map<std::uint64_t, std::size_t> beside;  // the triangle of a directed edge
        auto& all = surface_.triangles;
        beside.reserve(4 * all.size());
        const auto enter = [&](std::size_t k) {
            for (std::size_t i = 0; i < 3; ++i) beside[edge_key(all[k].v[i], all[k].v[(i + 1) % 3])] = k;
        };
        for (std::size_t k = 0; k < all.size(); ++k) enter(k);
        std::vector<std::size_t> open(all.size());
        for (std::size_t k = 0; k < open.size(); ++k) open[k] = k;
        while (!open.empty()) {
            std::vector<std::size_t> again;
            for (const std::size_t k : open)
                for (std::size_t i = 0; i < 3; ++i) {
                    const std::int32_t a = all[k].v[i], b = all[k].v[(i + 1) % 3], c = all[k].v[(i + 2) % 3];
                    if (has_edge(vertex_of(a), vertex_of(b))) continue;
                    const auto other = beside.find(edge_key(b, a));
                    if (other == beside.end() || all[other->second].face != all[k].face ||
                        on_edges_.count(pair_of(vertex_of(a), vertex_of(b))) > 0)
                        continue;
                    const std::size_t m = other->second;
                    std::int32_t d = -1;
                    for (const auto v : all[m].v)
                        if (v != a && v != b) d = v;
                    if (!has_edge(vertex_of(c), vertex_of(d)) || !keeps_sides(a, b, c, d)) continue;
                    beside.erase(edge_key(a, b));
                    beside.erase(edge_key(b, a));
                    all[k].v = {a, d, c};
                    all[m].v = {d, b, c};
                    enter(k);
                    enter(m);
                    again.push_back(k);
                    again.push_back(m);
                    break;
                }
            open = std::move(again);
        }
    }

    /// The triangles of both diagonals look the same way.
    [[nodiscard]] bool keeps_sides(std::int32_t a, std::int32_t b, std::int32_t c, std::int32_t d) const {
        const auto area = [&](std::int32_t p, std::int32_t q, std::int32_t r) {
            return cross(point(q) - point(p), point(r) - point(p));
        };
        const Vec3 way = area(a, b, c) + area(b, a, d);
        return dot(area(a, d, c), way) > 0 && dot(area(d, b, c), way) > 0;
    }

    void tell_missing(std::size_t k, CoarsePlaces& coarse) const {
        const auto& t = surface_.triangles[k];
        const std::string name = part_.name_of_face(t.face);
        constexpr const char* why = "faces lie nearer to each other here than the elements can follow";
        bool edge = false;
        std::size_t longest = 0;
        double length = 0;
        for (std::size_t i = 0; i < 3; ++i) {
            const Vec3 &a = point(t.v[i]), &b = point(t.v[(i + 1) % 3]);
            if (distance(a, b) > length) {
                length = distance(a, b);
                longest = i;
            }
            if (has_edge(vertex_of(t.v[i]), vertex_of(t.v[(i + 1) % 3]))) continue;
            edge = true;
            coarse.add(a, b, why, name);
        }
        if (!edge) coarse.add(point(t.v[longest]), point(t.v[(longest + 1) % 3]), why, name);
    }

    /// Whatever no wall parts is one body, or outside.
    void give_bodies(const std::unordered_map<Triple, std::int32_t, HashOfTriple>& triangle,
                     std::vector<Tetrahedralisation::Within>& within) const {
        constexpr std::int32_t unknown = -2;
        const auto& all = mesh_.tetrahedra();
        std::vector<std::int32_t> body(all.size(), unknown);
        std::vector<std::int32_t> open;
        for (std::size_t seed = 0; seed < all.size(); ++seed) {
            if (!all[seed].alive() || body[seed] != unknown) continue;
            // All tetrahedra on this side of the walls, and what these say of them.
            open.assign(1, static_cast<std::int32_t>(seed));
            std::int32_t own = unknown;
            body[seed] = -1;
            for (std::size_t k = 0; k < open.size(); ++k) {
                const auto t = static_cast<std::size_t>(open[k]);
                for (std::size_t i = 0; i < 4; ++i) {
                    const std::int32_t n = all[t].n[i];
                    if (within[t].wall[i] < 0) {
                        if (n >= 0 && body[static_cast<std::size_t>(n)] == unknown) {
                            body[static_cast<std::size_t>(n)] = -1;
                            open.push_back(n);
                        } else if (n < 0) {
                            own = -1;
                        }
                        continue;
                    }
                    const std::int32_t says = said_by(triangle, t, i);
                    if (own == unknown) own = says;
                    if (own == says) continue;
                    Place place;
                    place.position = mesh_.point(all[t].v[i]);
                    throw MeshError("faces of the solid contradict each other: the same place lies in two bodies",
                                    place, "look at the part near that point: a face is missing or turned round");
                }
            }
            for (const auto t : open) within[static_cast<std::size_t>(t)].body = std::max(own, -1);
        }
    }

    /// The body that lies on the tetrahedron's hand of the wall on one of its sides.
    [[nodiscard]] std::int32_t said_by(const std::unordered_map<Triple, std::int32_t, HashOfTriple>& triangle,
                                       std::size_t t, std::size_t side) const {
        const auto& v = mesh_.tetrahedra()[t].v;
        const auto& c = corners_of_side[side];
        const auto k = static_cast<std::size_t>(triangle.at(sorted({v[c[0]], v[c[1]], v[c[2]]})));
        const Triple w = vertices(k);
        const bool before =
            orientation(mesh_.point(w[0]), mesh_.point(w[1]), mesh_.point(w[2]), mesh_.point(v[side])) > 0;
        const SolidFace& face = part_.face(surface_.triangles[k].face);
        return before ? face.before : face.behind;
    }

    const SolidPart& part_;
    SurfaceMesh& surface_;
    const std::vector<std::int32_t>& vertex_;
    Tetrahedralisation& mesh_;
    std::unordered_set<std::uint64_t> edges_, on_edges_;
};

}  // namespace

void set_boundary(const SolidPart& part, SurfaceMesh& surface, const std::vector<std::int32_t>& vertex,
                  Tetrahedralisation& mesh, bool recover, CoarsePlaces& coarse) {
    Boundary(part, surface, vertex, mesh).run(recover, coarse);
}

}  // namespace dotsift
