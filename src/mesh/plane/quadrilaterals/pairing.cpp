#include "mesh/plane/quadrilaterals/pairing.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "mesh/elements/shape.hpp"
#include "mesh/plane/corner_topology.hpp"

namespace dotsift {

namespace {

using Element = CornerMesh::Element;

constexpr std::size_t longest_search = 400;  // triangles looked at for one that is left over

struct Candidate {
    int a, b;
    double score;  ///< scaled Jacobian of the quadrilateral
};

/// The quadrilateral of two triangles that share side i of a and side j of b.
Element joined(const Element& a, std::size_t i, const Element& b, std::size_t j) {
    // Side i of a runs from p to q; its third corner is c. In b the third corner d is seen between q and p.
    Element out;
    const std::size_t i1 = (i + 1) % 3, i2 = (i + 2) % 3, j1 = (j + 1) % 3, j2 = (j + 2) % 3;
    out.v = {a.v[i], b.v[j2], a.v[i1], a.v[i2]};
    out.segment = {b.segment[j1], b.segment[j2], a.segment[i1], a.segment[i2]};
    out.face = a.face;
    return out;
}

class Pairing {
  public:
    Pairing(CornerMesh& mesh, double least) : mesh_(mesh), least_(least) {}

    void run() {
        find_candidates();
        partner_.assign(mesh_.elements.size(), -1);
        for (const auto& c : candidates_) {
            if (partner_[static_cast<std::size_t>(c.a)] >= 0 || partner_[static_cast<std::size_t>(c.b)] >= 0) continue;
            join(c.a, c.b);
        }
        for (std::size_t t = 0; t < partner_.size(); ++t)
            if (partner_[t] < 0 && mesh_.elements[t].corners() == 3) augment(static_cast<int>(t));
        build();
    }

  private:
    struct Neighbour {
        int triangle;
        std::size_t side, their_side;
        bool good;
    };

    void find_candidates() {
        const EdgeNumbers edges(mesh_);
        std::vector<std::pair<int, std::size_t>> first(edges.count(), {-1, 0});  // the element seen at each edge
        neighbours_.resize(mesh_.elements.size());
        for (std::size_t e = 0; e < mesh_.elements.size(); ++e) {
            const auto& t = mesh_.elements[e];
            if (t.corners() != 3) continue;
            for (std::size_t i = 0; i < 3; ++i) {
                if (t.segment[i] >= 0) continue;
                auto& seen = first[edges.of(e, i)];
                if (seen.first < 0) {
                    seen = {static_cast<int>(e), i};
                    continue;
                }
                const auto [other, j] = seen;
                const Element quad = joined(t, i, mesh_.elements[static_cast<std::size_t>(other)], j);
                const double score = scaled_jacobian(mesh_.corners_of(quad));
                neighbours_[e].push_back({other, i, j, score >= least_});
                neighbours_[static_cast<std::size_t>(other)].push_back({static_cast<int>(e), j, i, score >= least_});
                if (score >= least_) candidates_.push_back({other, static_cast<int>(e), score});
            }
        }
        std::sort(candidates_.begin(), candidates_.end(), [](const Candidate& x, const Candidate& y) {
            return x.score != y.score ? x.score > y.score : std::pair(x.a, x.b) < std::pair(y.a, y.b);
        });
    }

    void join(int a, int b) {
        partner_[static_cast<std::size_t>(a)] = b;
        partner_[static_cast<std::size_t>(b)] = a;
    }

    /// Searches breadth first for another triangle without partner, along sides that alternate between free and paired.
    void augment(int start) {
        std::map<int, int> came_from;  // of the triangle whose partner is exchanged, the one it was reached from
        std::vector<int> open{start};
        came_from[start] = -1;
        for (std::size_t head = 0; head < open.size() && open.size() < longest_search; ++head) {
            const int t = open[head];
            for (const auto& n : neighbours_[static_cast<std::size_t>(t)]) {
                if (!n.good || n.triangle == partner_[static_cast<std::size_t>(t)]) continue;
                const int mate = partner_[static_cast<std::size_t>(n.triangle)];
                if (mate < 0) {
                    if (n.triangle == start) continue;
                    // Exchange back to the start.
                    int free = n.triangle;
                    for (int at = t; at >= 0;) {
                        const int freed = partner_[static_cast<std::size_t>(at)];
                        join(at, free);
                        free = freed;
                        at = came_from[at];
                    }
                    return;
                }
                if (came_from.count(mate) || came_from.count(n.triangle)) continue;
                came_from[mate] = t;
                // The way to `mate` runs over n.triangle: it gets t as its partner, and mate looks for a new one.
                open.push_back(mate);
            }
        }
    }

    void build() {
        std::vector<Element> out;
        for (std::size_t e = 0; e < mesh_.elements.size(); ++e) {
            const int other = partner_[e];
            if (other < 0) {
                out.push_back(mesh_.elements[e]);
                continue;
            }
            if (other < static_cast<int>(e)) continue;
            for (const auto& n : neighbours_[e])
                if (n.triangle == other) {
                    out.push_back(joined(mesh_.elements[e], n.side, mesh_.elements[static_cast<std::size_t>(other)],
                                         n.their_side));
                    break;
                }
        }
        mesh_.elements = std::move(out);
    }

    CornerMesh& mesh_;
    double least_;
    std::vector<Candidate> candidates_;
    std::vector<std::vector<Neighbour>> neighbours_;
    std::vector<int> partner_;
};

}  // namespace

void pair_triangles(CornerMesh& mesh, double least) {
    Pairing(mesh, least).run();
}

}  // namespace dotsift
