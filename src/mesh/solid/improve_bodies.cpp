#include "mesh/solid/improve_bodies.hpp"

#include <algorithm>
#include <cmath>

#include "mesh/solid/edge_ring.hpp"

namespace dotsift {

namespace {

// Elements worse than these are looked at: all in the first rounds, then the poor ones, until nothing changes.
constexpr double fair_below = 0.65, poor_below = 0.4;
constexpr int fair_improvements = 3, improvements = 12;
// A face passes on the other side of elements flatter than this, and a new point is tried inside of them.
constexpr double flat = 0.25;
constexpr std::size_t most_in_hollow = 24;
constexpr double worth_a_point = 0.02;
// What is gained by less than this is not worth a change.
constexpr double least_gain = 1e-6;
// A point on its way uphill goes at first this share of the way to its neighbours.
constexpr double first_step = 0.15;
constexpr int most_steps = 6;

class Improvement {
  public:
    Improvement(BodyMesh& mesh, const std::function<bool(std::int32_t, std::int32_t)>& on_edge)
        : mesh_(mesh), on_edge_(on_edge) {}

    void run() {
        for (int round = 0; round < improvements; ++round) {
            const bool all = round < fair_improvements;
            std::size_t changes = reconnect(all ? fair_below : poor_below);
            if (!all) changes += add_points();
            changes += smooth(all);
            if (changes == 0) break;
        }
    }

  private:
    std::size_t reconnect(double below) {
        std::size_t changes = 0;
        const auto count = static_cast<std::int32_t>(mesh_.elements.size());
        for (std::int32_t t = 0; t < count; ++t) {
            if (!mesh_.element(t).alive()) continue;
            const double q = mesh_.quality(t);
            if (q >= below) continue;
            // A flat element between two bodies would only go to and fro between them: its edges go first.
            if (q < flat && ((mesh_.between_bodies(t) && take_edges_out(t)) || mesh_.hand_over(t, on_edge_))) {
                ++changes;
                continue;
            }
            if (take_edges_out(t) || take_sides_out(t)) ++changes;
        }
        return changes;
    }

    bool take_edges_out(std::int32_t t) {
        for (std::size_t a = 0; a < 4; ++a)
            for (std::size_t b = a + 1; b < 4; ++b)
                if (take_edge_out(t, a, b)) return true;
        return false;
    }

    bool take_edge_out(std::int32_t t, std::size_t a, std::size_t b) {
        if (!edge_.find(mesh_, t, a, b, least_gain, true)) return false;
        mesh_.exchange(edge_.old(), edge_.now());
        return true;
    }

    /// Three elements round the line between the points on both hands of a side in the place of two.
    bool take_sides_out(std::int32_t t) {
        for (std::size_t i = 0; i < 4; ++i) {
            const auto& e = mesh_.element(t);
            if (e.wall[i] >= 0 || e.n[i] < 0) continue;
            const auto& c = corners_of_side[i];
            const std::array<std::int32_t, 3> side{e.v[c[0]], e.v[c[1]], e.v[c[2]]};
            const std::int32_t near = e.v[i];
            std::int32_t far = -1;
            for (const auto v : mesh_.element(e.n[i]).v)
                if (std::find(side.begin(), side.end(), v) == side.end()) far = v;
            const double now = std::min(mesh_.quality(t), mesh_.quality(e.n[i]));
            now_.clear();
            double worst = 1;
            for (std::size_t k = 0; k < 3 && worst > now + least_gain; ++k) {
                // The side turns left seen from `near`.
                now_.push_back({side[k], side[(k + 1) % 3], far, near});
                worst = std::min(worst, mesh_.quality(now_.back()));
            }
            if (!(worst > now + least_gain)) continue;
            const std::array<std::int32_t, 2> old{t, e.n[i]};
            mesh_.exchange(old, now_);
            return true;
        }
        return false;
    }

    /// A point in the middle of flat elements, where neither other edges nor other places help: as between aligned
    /// points on both faces of a plate.
    std::size_t add_points() {
        std::size_t changes = 0;
        const auto count = static_cast<std::int32_t>(mesh_.elements.size());
        for (std::int32_t t = 0; t < count; ++t)
            if (mesh_.element(t).alive() && mesh_.quality(t) < flat && put_point_in(t)) ++changes;
        return changes;
    }

    /// Takes elements round it away, always the one behind the side that has the worst element to the new point, and
    /// keeps what made the worst one best (Klingner & Shewchuk 2008, Proc. 16th Int. Meshing Roundtable).
    bool put_point_in(std::int32_t t) {
        const auto c = mesh_.corners(t);
        const Vec3 x = (c[0] + c[1] + c[2] + c[3]) / 4;
        struct Side {
            std::array<std::int32_t, 3> v;
            std::int32_t beyond;  // -1: a wall, or outside
        };
        std::vector<Side> rim;
        std::vector<std::int32_t> hollow{t};
        double best = -1;
        std::size_t kept = 0;
        std::vector<std::array<std::int32_t, 4>> star;
        const auto next = static_cast<std::int32_t>(mesh_.points.size());
        while (hollow.size() <= most_in_hollow) {
            rim.clear();
            for (const auto h : hollow) {
                const auto& e = mesh_.element(h);
                for (std::size_t i = 0; i < 4; ++i) {
                    const std::int32_t n = e.wall[i] < 0 ? e.n[i] : -1;
                    if (n >= 0 && std::find(hollow.begin(), hollow.end(), n) != hollow.end()) continue;
                    const auto& k = corners_of_side[i];
                    rim.push_back({{e.v[k[0]], e.v[k[1]], e.v[k[2]]}, n});
                }
            }
            double least = INFINITY;
            std::int32_t behind = -1;
            for (const Side& s : rim) {
                const double q = volume_over_length(mesh_.point(s.v[0]), mesh_.point(s.v[1]), mesh_.point(s.v[2]), x);
                if (q >= least) continue;
                least = q;
                behind = s.beyond;
            }
            if (least > best) {
                best = least;
                kept = hollow.size();
                star.clear();
                for (const Side& s : rim) star.push_back({s.v[0], s.v[1], s.v[2], next});
            }
            if (behind < 0) break;
            hollow.push_back(behind);
        }
        hollow.resize(kept);
        double now = 1;
        for (const auto h : hollow) now = std::min(now, mesh_.quality(h));
        if (!(best > now + worth_a_point)) return false;
        (void)mesh_.add_point(x);
        mesh_.exchange(hollow, star);
        mesh_.around(next, round_);
        if (best < poor_below) uphill(next, best);
        return true;
    }

    std::size_t smooth(bool all) {
        std::size_t moved = 0;
        for (auto p = static_cast<std::int32_t>(mesh_.on_surface); p < static_cast<std::int32_t>(mesh_.points.size());
             ++p) {
            mesh_.around(p, round_);
            double worst = 1;
            for (const auto e : round_) worst = std::min(worst, mesh_.quality(e));
            if (round_.empty() || (!all && worst >= poor_below)) continue;
            bool better = to_middle(p, worst);
            if (worst < poor_below) better = uphill(p, worst) || better;
            moved += better ? 1 : 0;
        }
        return all ? moved : std::min<std::size_t>(moved, 1);
    }

    [[nodiscard]] double worst_at(std::int32_t p, const Vec3& x) {
        const Vec3 old = mesh_.point(p);
        mesh_.points[static_cast<std::size_t>(p)] = x;
        double worst = 1;
        for (const auto e : round_) worst = std::min(worst, mesh_.quality(e));
        mesh_.points[static_cast<std::size_t>(p)] = old;
        return worst;
    }

    bool try_at(std::int32_t p, const Vec3& x, double& worst) {
        const double then = worst_at(p, x);
        if (!(then > worst + least_gain)) return false;
        mesh_.points[static_cast<std::size_t>(p)] = x;
        worst = then;
        return true;
    }

    /// The middle of all points round it, each counted once for every element that has it.
    bool to_middle(std::int32_t p, double& worst) {
        Vec3 sum{};
        double count = 0;
        for (const auto e : round_)
            for (const auto v : mesh_.element(e).v)
                if (v != p) {
                    sum += mesh_.point(v);
                    count += 1;
                }
        const Vec3 way = sum / count - mesh_.point(p);
        for (const double step : {1.0, 0.5, 0.25})
            if (try_at(p, mesh_.point(p) + way * step, worst)) return true;
        return false;
    }

    /// Along the slope of the worst element's quality, found by differences.
    bool uphill(std::int32_t p, double& worst) {
        double reach = 0;
        for (const auto e : round_)
            for (const auto v : mesh_.element(e).v)
                if (v != p)
                    reach = reach == 0 ? distance(mesh_.point(v), mesh_.point(p))
                                       : std::min(reach, distance(mesh_.point(v), mesh_.point(p)));
        bool better = false;
        double step = first_step * reach;
        for (int k = 0; k < most_steps; ++k) {
            const Vec3 at = mesh_.point(p);
            const double apart = 1e-4 * reach;
            Vec3 slope;
            for (std::size_t i = 0; i < 3; ++i) {
                Vec3 d{};
                d[i] = apart;
                slope[i] = worst_at(p, at + d) - worst_at(p, at - d);
            }
            const double steep = norm(slope);
            if (!(steep > 0)) break;
            if (try_at(p, at + slope * (step / steep), worst))
                better = true;
            else
                step /= 2;
        }
        return better;
    }

    BodyMesh& mesh_;
    const std::function<bool(std::int32_t, std::int32_t)>& on_edge_;
    EdgeRing edge_;
    std::vector<std::int32_t> round_;
    std::vector<std::array<std::int32_t, 4>> now_;
};

}  // namespace

void improve_bodies(BodyMesh& mesh, const std::function<bool(std::int32_t, std::int32_t)>& on_edge) {
    Improvement(mesh, on_edge).run();
}

}  // namespace dotsift
