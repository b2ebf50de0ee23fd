#include "part/narrow.hpp"

#include <algorithm>
#include <array>
#include <boost/geometry.hpp>
#include <boost/geometry/geometries/point.hpp>
#include <boost/geometry/index/rtree.hpp>
#include <cmath>
#include <map>
#include <numbers>
#include <optional>

namespace dotsift {

namespace {

namespace bg = boost::geometry;
using TreePoint = bg::model::point<double, 2, bg::cs::cartesian>;
using TreeValue = std::pair<TreePoint, int>;

constexpr double part_samples = 3000;  // along all edges together
constexpr int least_samples = 6;       // on each edge
// Seen from the circle's centre the two touching points must lie nearly opposite to each other. Where a face has no
// such place (a triangle), its narrowest circle with points this far apart counts, by its diameter.
constexpr double opposite_separation = 150 * std::numbers::pi / 180;
constexpr double least_separation = 100 * std::numbers::pi / 180;
constexpr double least_settled = 0.98;
constexpr double touching_share = 1e-3;  // of the radius: samples this near to the circle touch it
constexpr double end_inset = 1e-3;       // share of an edge that is left out at its ends, where the normal is not clear

struct Sample {
    Vec2 position, normal;  ///< unit, to the left of the edge
    int edge;
    double t;
};

std::vector<Sample> sample_edges(const Part& part) {
    double whole = 0;
    for (const auto& e : part.edges) whole += e.curve.length();
    std::vector<Sample> samples;
    for (std::size_t e = 0; e < part.edges.size(); ++e) {
        const Curve& c = part.edges[e].curve;
        const int count =
            std::max(least_samples, static_cast<int>(std::ceil(part_samples * c.length() / std::max(whole, 1e-300))));
        for (int k = 0; k <= count; ++k) {
            const double t = end_inset + (1 - 2 * end_inset) * k / count;
            const Vec2 d = c.derivative(t);
            if (!(norm(d) > 0)) continue;
            samples.push_back({c.point(t), turned_left(d) / norm(d), static_cast<int>(e), t});
        }
    }
    return samples;
}

class Search {
  public:
    explicit Search(const Part& part) : part_(part), samples_(sample_edges(part)) {
        std::vector<TreeValue> values;
        for (std::size_t i = 0; i < samples_.size(); ++i)
            values.emplace_back(TreePoint(samples_[i].position[0], samples_[i].position[1]), static_cast<int>(i));
        tree_ = Tree(values);
    }

    std::vector<NarrowPlace> run() {
        struct Best {
            NarrowPlace place;
            bool opposite;
            double score;
        };
        std::map<std::array<int, 3>, Best> best;  // by face; of gaps by the regions on both sides
        for (std::size_t i = 0; i < samples_.size(); ++i)
            for (const double side : {1.0, -1.0}) {
                const auto& e = part_.edge(samples_[i].edge);
                const int face = side > 0 ? e.left : e.right;
                const auto across = opposite(i, side);
                if (!across) continue;
                const bool clear = across->separation >= opposite_separation;
                const Vec2& from = samples_[i].position;
                NarrowPlace place{face, samples_[i].edge, samples_[across->sample].edge, from,
                                  clear ? samples_[across->sample].position
                                        : from + samples_[i].normal * (side * 2 * across->radius)};
                // The circle's diameter, more for points less opposite: a round end is as wide as its flanks.
                const double score = 2 * across->radius / std::sin(across->separation / 2);
                const auto key = key_of(place);
                const auto known = best.find(key);
                if (known != best.end() && (known->second.opposite > clear ||
                                            (known->second.opposite == clear && known->second.score <= score)))
                    continue;
                best[key] = {place, clear, score};
            }
        std::vector<NarrowPlace> out;
        for (auto& [key, b] : best) {
            NarrowPlace settled = b.place;
            if (b.opposite) settle(settled);
            // On a taper there is no narrowest place: projections would run away to its tip.
            out.push_back(settled.width() > least_settled * b.place.width() ? settled : b.place);
        }
        return out;
    }

    std::vector<Crossing> all() {
        std::vector<Crossing> out;
        for (std::size_t i = 0; i < samples_.size(); ++i)
            for (const double side : {1.0, -1.0}) {
                const auto& e = part_.edge(samples_[i].edge);
                const int face = side > 0 ? e.left : e.right;
                if (face < 0) continue;
                const auto across = opposite(i, side);
                if (!across) continue;
                const Vec2& from = samples_[i].position;
                out.push_back({face, samples_[i].edge, from, samples_[across->sample].position, 2 * across->radius});
            }
        return out;
    }

  private:
    using Tree = bg::index::rtree<TreeValue, bg::index::quadratic<16>>;

    bool share_vertex(int e, int f) const {
        const auto &a = part_.edge(e), &b = part_.edge(f);
        return a.start == b.start || a.start == b.end || a.end == b.start || a.end == b.end;
    }

    /// Gaps between different regions are told one by one.
    [[nodiscard]] std::array<int, 3> key_of(const NarrowPlace& place) const {
        if (place.face >= 0) return {place.face, -1, -1};
        const auto region = [&](int e) {
            const int face = std::max(part_.edge(e).left, part_.edge(e).right);
            return part_.faces[static_cast<std::size_t>(face)].region;
        };
        const int a = region(place.edge_a), b = region(place.edge_b);
        return {-1, std::min(a, b), std::max(a, b)};
    }

    struct Across {
        std::size_t sample;
        double radius, separation;
    };

    /// The sample on the far side of the largest circle that touches sample i from one side.
    std::optional<Across> opposite(std::size_t i, double side) const {
        const Vec2& p = samples_[i].position;
        const Vec2 n = samples_[i].normal * side;
        double radius = 2 * part_.box.diagonal();
        bool touched = false;
        for (int round = 0; round < 40; ++round) {
            const Vec2 centre = p + n * radius;
            std::vector<TreeValue> found;
            tree_.query(bg::index::nearest(TreePoint(centre[0], centre[1]), 2), std::back_inserter(found));
            int next = -1;
            double least = radius * (1 - 1e-9);
            for (const auto& [at, k] : found) {
                if (k == static_cast<int>(i)) continue;
                const double d = distance(samples_[static_cast<std::size_t>(k)].position, centre);
                if (d < least) {
                    least = d;
                    next = k;
                }
            }
            if (next < 0) break;
            const Vec2 gap = samples_[static_cast<std::size_t>(next)].position - p;
            const double along = dot(gap, n);
            if (!(along > 0)) break;
            const double smaller = dot(gap, gap) / (2 * along);
            if (!(smaller < radius * (1 - 1e-12))) break;
            radius = smaller;
            touched = true;
        }
        if (!touched) return std::nullopt;
        // Of all samples that touch the circle, the one most nearly opposite: a round end touches it everywhere.
        const Vec2 centre = p + n * radius, u = p - centre;
        const double reach = radius * (1 + touching_share);
        std::vector<TreeValue> touching;
        tree_.query(bg::index::intersects(bg::model::box<TreePoint>(TreePoint(centre[0] - reach, centre[1] - reach),
                                                                    TreePoint(centre[0] + reach, centre[1] + reach))),
                    std::back_inserter(touching));
        Across best{i, radius, 0};
        for (const auto& [at, k] : touching) {
            const Vec2 v = samples_[static_cast<std::size_t>(k)].position - centre;
            if (norm(v) > reach) continue;
            const double apart = std::fabs(std::atan2(cross(u, v), dot(u, v)));
            if (apart > best.separation || (apart == best.separation && static_cast<std::size_t>(k) < best.sample))
                best = {static_cast<std::size_t>(k), radius, apart};
        }
        if (best.separation < least_separation) return std::nullopt;
        // In a narrow corner the circle sits between the two sides that make it: that is told as an angle.
        const int e = samples_[i].edge, f = samples_[best.sample].edge;
        if (e != f && share_vertex(e, f) && in_corner(e, f)) return std::nullopt;
        return best;
    }

    /// Two edges that share a vertex make a corner there: they do not go on smoothly from one to the other.
    bool in_corner(int e, int f) const {
        const auto &a = part_.edge(e), &b = part_.edge(f);
        for (const int v : {a.start, a.end}) {
            if (v != b.start && v != b.end) continue;
            const Vec2 u = v == a.start ? a.curve.derivative(0) : -a.curve.derivative(1),
                       w = v == b.start ? b.curve.derivative(0) : -b.curve.derivative(1);
            if (std::fabs(std::atan2(cross(u, w), dot(u, w))) < opposite_separation) return true;
        }
        return false;
    }

    void settle(NarrowPlace& place) const {
        // A place across one curve (a disc, the waist of an ellipse) may only move along the curve near where it is.
        const Curve &a = part_.edge(place.edge_a).curve, &b = part_.edge(place.edge_b).curve;
        if (share_vertex(place.edge_a, place.edge_b) && place.edge_a != place.edge_b) return;
        const bool same = place.edge_a == place.edge_b;
        if (same && a.circular()) {  // every diameter is as wide
            const Vec2 far = a.centre() * 2 - place.a;
            if (distance(a.point(a.project(far)), far) <= 1e-9 * norm(a.axis_a())) place.b = far;
            return;
        }
        for (int k = 0; k < 200; ++k) {
            const Vec2 before_a = place.a, before_b = place.b;
            if (same) {
                place.b = step(b, place.b, place.a);
                place.a = step(a, place.a, place.b);
            } else {
                place.b = b.point(b.project(place.a));
                place.a = a.point(a.project(place.b));
            }
            if (distance(before_a, place.a) + distance(before_b, place.b) <= 1e-13 * part_.box.diagonal()) break;
        }
    }

    /// One damped Newton step of the point p of a curve towards the nearest point to q in its neighbourhood; on a
    /// circle seen from inside there is none, and p stays.
    static Vec2 step(const Curve& c, const Vec2& p, const Vec2& q) {
        const double t = c.project(p);
        const Vec2 d = c.derivative(t), gap = p - q;
        const double slope = dot(gap, d), bend = dot(d, d) + dot(gap, c.second_derivative(t));
        if (!(bend > 1e-9 * dot(d, d))) return p;
        const double next = t - std::clamp(slope / bend, -0.02, 0.02);
        if (next < 0 || next > 1) return p;
        return distance(c.point(next), q) < norm(gap) ? c.point(next) : p;
    }

    const Part& part_;
    std::vector<Sample> samples_;
    Tree tree_;
};

}  // namespace

std::vector<Crossing> crossings(const Part& part) {
    if (part.edges.empty()) return {};
    return Search(part).all();
}

std::vector<NarrowPlace> narrow_places(const Part& part) {
    if (part.edges.empty()) return {};
    return Search(part).run();
}

}  // namespace dotsift
