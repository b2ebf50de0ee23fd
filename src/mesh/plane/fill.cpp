#include "mesh/plane/fill.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <deque>
#include <numbers>
#include <span>

#include "base/errors.hpp"
#include "base/predicates.hpp"

namespace dotsift {

namespace {

// A triangle is finished when its circumradius is at most this times that of the wanted equilateral one. Between
// 1.2 and 1.5 the edge lengths scatter round the wanted size; measured in bench/.
constexpr double finished_ratio = 1.4;
// A new point keeps this share of the wanted size from every vertex and constraint near it.
constexpr double least_distance = 0.55;
constexpr double least_height = 0.45;

/// Circumcentre relative to a, or nothing sensible for a degenerate triangle (then the length is not finite).
Vec2 circumcentre_offset(const Vec2& a, const Vec2& b, const Vec2& c) {
    const Vec2 u = b - a, v = c - a;
    const double d = 2 * cross(u, v), uu = dot(u, u), vv = dot(v, v);
    return {{(v[1] * uu - u[1] * vv) / d, (u[0] * vv - v[0] * uu) / d}};
}

/// Whether a point in triangle t keeps its distance from the triangle's vertices and from constraints near it.
bool has_room(const Triangulation& mesh, const Vec2& p, int t, double h) {
    const double least2 = least_distance * least_distance * h * h;
    const auto near = [&](const Vec2& v) { return dot(v - p, v - p) < least2; };
    const auto low_over = [&](const Vec2& a, const Vec2& b) {
        const double length = distance(a, b);
        return cross(b - a, p - a) < least_height * std::min(h, length) * length;
    };
    const auto& tri = mesh.triangle(t);
    for (std::size_t i = 0; i < 3; ++i) {
        if (near(mesh.point(tri.v[i]))) return false;
        if (tri.segment[i] >= 0) {
            if (low_over(mesh.point(tri.v[next_corner(i)]), mesh.point(tri.v[corner_before(i)]))) return false;
            continue;
        }
        const auto& other = mesh.triangle(tri.n[i]);
        for (std::size_t j = 0; j < 3; ++j) {
            if (near(mesh.point(other.v[j]))) return false;
            if (other.segment[j] >= 0 &&
                low_over(mesh.point(other.v[next_corner(j)]), mesh.point(other.v[corner_before(j)])))
                return false;
        }
    }
    return true;
}

template <class Sizes>
class Front {
  public:
    Front(Triangulation& mesh, const Sizes& sizes, std::size_t most) : mesh_(mesh), sizes_(sizes), most_(most) {}

    void run() {
        const std::size_t room = mesh_.points().capacity();
        size_.reserve(room);
        hint_.reserve(room);
        state_.reserve(2 * room);
        for (const auto& p : mesh_.points()) {
            std::int32_t hint = hint_.empty() ? -1 : hint_.back();
            size_.push_back(sizes_.at(p, hint));
            hint_.push_back(hint);
        }
        state_.assign(mesh_.triangles().size(), State::open);
        for (std::size_t t = 0; t < state_.size(); ++t) judge(static_cast<int>(t));
        for (std::size_t t = 0; t < state_.size(); ++t) enqueue(static_cast<int>(t));
        drain();
        // What the front could not reach (nothing finished beside it) is opened by circumcentres, then the front goes
        // on.
        for (bool again = true; again;) {
            again = false;
            for (std::size_t t = 0; t < state_.size(); ++t) {
                if (state_[t] != State::open || !mesh_.triangles()[t].inside()) continue;
                if (try_circumcentre(static_cast<int>(t)))
                    again = true;
                else
                    state_[t] = State::stuck;
                drain();
            }
        }
    }

  private:
    enum class State : char { open, queued, finished, stuck };

    [[nodiscard]] State& state(int t) { return state_[static_cast<std::size_t>(t)]; }
    [[nodiscard]] double size_at(int v) const { return size_[static_cast<std::size_t>(v)]; }

    void judge(int t) {
        const auto& tri = mesh_.triangle(t);
        if (!tri.inside()) {
            state(t) = State::finished;
            return;
        }
        state(t) = State::open;
        const Vec2 &a = mesh_.point(tri.v[0]), &b = mesh_.point(tri.v[1]), &c = mesh_.point(tri.v[2]);
        const double ha = size_at(tri.v[0]), hb = size_at(tri.v[1]), hc = size_at(tri.v[2]);
        const Vec2 ab = b - a, bc = c - b, ca = a - c;
        const double ab2 = dot(ab, ab), bc2 = dot(bc, bc), ca2 = dot(ca, ca), area2 = cross(ab, bc);  // twice the area
        // The circumradius is the product of the edges over four times the area; squared there is no root to take.
        const double radius2 = ab2 * bc2 * ca2 / (4 * area2 * area2);
        constexpr double limit2 = finished_ratio * finished_ratio / 3;
        const double mean = (ha + hb + hc) / 3;
        if (!(radius2 <= limit2 * mean * mean)) return;
        // The vertices may all lie where the field is coarse; what counts is the place of the triangle. The field is
        // asked only if its values at the vertices leave a doubt. No vertex is further from the centre than this:
        const double reach = 2.0 / 3 * std::sqrt(std::max({ab2, bc2, ca2}));
        const double least = std::max({ha, hb, hc}) - sizes_.steepest() * reach;
        if (least > 0 && radius2 <= limit2 * least * least) {
            state(t) = State::finished;
            return;
        }
        std::int32_t hint = hint_[static_cast<std::size_t>(tri.v[0])];
        const double h = sizes_.at((a + b + c) / 3, hint);
        if (radius2 <= limit2 * h * h) state(t) = State::finished;
    }

    void enqueue(int t) {
        if (state(t) != State::open) return;
        const auto& tri = mesh_.triangle(t);
        for (std::size_t i = 0; i < 3; ++i) {
            if (tri.segment[i] < 0 && (tri.n[i] < 0 || state(tri.n[i]) != State::finished)) continue;
            state(t) = State::queued;
            queue_.push_back({t, tri.v});
            return;
        }
    }

    void drain() {
        while (!queue_.empty()) {
            const auto [t, v] = queue_.front();
            queue_.pop_front();
            fetch_ahead();
            const auto& now = mesh_.triangle(t).v;
            if (state(t) != State::queued || now[0] != v[0] || now[1] != v[1] || now[2] != v[2]) continue;
            if (!advance(t)) state(t) = State::stuck;
        }
    }

    /// The front is long, and what is next on it was made long ago: it is fetched while the present one is dealt with.
    void fetch_ahead() const {
        constexpr std::size_t records = 8, points = 4;  // entries ahead; measured with a million vertices
        if (queue_.size() <= records) return;
        __builtin_prefetch(&mesh_.triangle(queue_[records].triangle));
        __builtin_prefetch(&state_[static_cast<std::size_t>(queue_[records].triangle)]);
        for (const int v : queue_[points].vertices) __builtin_prefetch(&mesh_.point(v));
    }

    /// Places a point over the shortest front edge of t.
    bool advance(int t) {
        const auto& tri = mesh_.triangle(t);
        std::size_t edge = 3;
        double shortest = 0;
        for (std::size_t i = 0; i < 3; ++i) {
            if (tri.segment[i] < 0 && state(tri.n[i]) != State::finished) continue;
            const double l = distance(mesh_.point(tri.v[next_corner(i)]), mesh_.point(tri.v[corner_before(i)]));
            if (edge == 3 || l < shortest) {
                edge = i;
                shortest = l;
            }
        }
        if (edge == 3) return false;
        const Vec2 &a = mesh_.point(tri.v[next_corner(edge)]), &b = mesh_.point(tri.v[corner_before(edge)]);
        const Vec2 middle = (a + b) * 0.5, normal = turned_left(b - a) / shortest;
        const Vec2 centre = a + circumcentre_offset(a, b, mesh_.point(tri.v[edge]));
        const double p = shortest / 2, q = dot(centre - middle, normal);
        if (!(q > 0)) return try_circumcentre(t);
        const double h = (size_at(tri.v[next_corner(edge)]) + size_at(tri.v[corner_before(edge)])) / 2;
        const double radius = std::min(std::max(h / std::numbers::sqrt3, p), (p * p + q * q) / (2 * q));
        const Vec2 x = middle + normal * (radius + std::sqrt(std::max(0.0, radius * radius - p * p)));
        return place(x, t);
    }

    bool try_circumcentre(int t) {
        const auto& tri = mesh_.triangle(t);
        const Vec2& a = mesh_.point(tri.v[0]);
        const Vec2 offset = circumcentre_offset(a, mesh_.point(tri.v[1]), mesh_.point(tri.v[2]));
        if (!std::isfinite(norm(offset))) return false;
        return place(a + offset, t);
    }

    bool place(const Vec2& x, int from) {
        const int t = mesh_.locate_visible(x, from);
        if (t < 0 || !mesh_.triangle(t).inside()) return false;
        std::int32_t hint = hint_[static_cast<std::size_t>(mesh_.triangle(t).v[0])];
        const double h = sizes_.at(x, hint);
        if (!has_room(mesh_, x, t, h)) return false;
        if (mesh_.triangles().size() > most_)
            throw MeshError(fmt::format("the mesh would have more than {} elements", most_ / 2), {},
                            "ask for larger sizes or raise size.most_elements");
        const std::size_t count = mesh_.points().size();
        mesh_.insert(x, t);
        if (mesh_.points().size() == count) return false;
        size_.push_back(h);
        hint_.push_back(hint);
        state_.resize(mesh_.triangles().size(), State::open);
        for (const int c : mesh_.changed()) judge(c);
        for (const int c : mesh_.changed()) {
            enqueue(c);
            for (const int n : mesh_.triangle(c).n)
                if (n >= 0) enqueue(n);
        }
        return true;
    }

    struct Entry {
        int triangle;
        std::array<std::int32_t, 3> vertices;
    };
    Triangulation& mesh_;
    const Sizes& sizes_;
    std::size_t most_;
    std::vector<double> size_;        ///< wanted at each vertex
    std::vector<std::int32_t> hint_;  ///< the size source that decided there
    std::vector<State> state_;
    std::deque<Entry> queue_;
};

/// What lies round a vertex: its neighbours in order, anticlockwise, and the triangles between them.
class Ring {
  public:
    /// False if the ring is not closed within the part, or larger than any good one.
    bool gather(const Triangulation& mesh, int v) {
        size_ = 0;
        bool inside = true;
        mesh.around(v, [&](int t, int k) {
            const auto& tri = mesh.triangle(t);
            if (size_ == most) inside = false;
            inside = inside && tri.inside();
            if (!inside) return;
            points_[size_] = mesh.point(tri.v[next_corner(static_cast<std::size_t>(k))]);
            triangles_[size_++] = t;
        });
        if (!inside) return false;
        points_[size_] = points_[0];
        for (std::size_t i = 0; i < size_; ++i) {
            const Vec2 edge = points_[i + 1] - points_[i];
            edge2_[i] = dot(edge, edge);
        }
        return true;
    }
    [[nodiscard]] std::span<const int> triangles() const { return {triangles_.data(), size_}; }
    [[nodiscard]] const Vec2& first() const { return points_[0]; }

    /// The mean of the apexes of equilateral triangles on the ring's edges, which is the mean of its points, since the
    /// edges' normals cancel.
    [[nodiscard]] Vec2 ideal() const {
        Vec2 sum;
        for (std::size_t i = 0; i < size_; ++i) sum += points_[i];
        return sum / static_cast<double>(size_);
    }
    /// Twice the area over the sum of the squared edges, the smallest of the triangles from p.
    [[nodiscard]] double worst_from(const Vec2& p) const {
        double worst = INFINITY;
        for_each_from(p, [&](double area2, double edges2) {
            worst = std::min(worst, area2 / edges2);
            return true;
        });
        return worst;
    }
    /// Whether all triangles from p are anticlockwise and none is worse than that.
    [[nodiscard]] bool no_worse_from(const Vec2& p, double worst) const {
        return for_each_from(p, [&](double area2, double edges2) { return area2 > 0 && area2 >= worst * edges2; });
    }

  private:
    template <class Act>
    bool for_each_from(const Vec2& p, Act act) const {
        Vec2 spoke = points_[0] - p;
        double spoke2 = dot(spoke, spoke);
        for (std::size_t i = 0; i < size_; ++i) {
            spoke = points_[i + 1] - p;
            const double following2 = dot(spoke, spoke);
            if (!act(orientation(points_[i], points_[i + 1], p), spoke2 + following2 + edge2_[i])) return false;
            spoke2 = following2;
        }
        return true;
    }

    static constexpr std::size_t most = 24;
    std::array<Vec2, most + 1> points_;  ///< the first once more at the end
    std::array<double, most> edge2_{};
    std::array<int, most> triangles_{};
    std::size_t size_ = 0;
};

}  // namespace

void fill(Triangulation& mesh, const SizeField& sizes, std::size_t most_triangles) {
    Front(mesh, sizes, most_triangles).run();
}
void fill(Triangulation& mesh, const ToldSizes& sizes, std::size_t most_triangles) {
    Front(mesh, sizes, most_triangles).run();
}

void smooth(Triangulation& mesh, int rounds, int first_movable) {
    // A vertex that is this near to its ideal place, in shares of the way to its neighbours, stays; and one that had so
    // little to go is not looked at again.
    constexpr double near_enough = 0.04, settled_from = 0.06;
    std::vector<char> settled(mesh.points().size(), 0);
    Ring ring;
    std::vector<char> touched(mesh.triangles().size(), 0);
    for (int round = 0; round < rounds; ++round) {
        for (int v = first_movable; v < static_cast<int>(mesh.points().size()); ++v) {
            if (settled[static_cast<std::size_t>(v)] || !ring.gather(mesh, v)) continue;
            const Vec2 old = mesh.point(v), way = ring.ideal() - old, spoke = ring.first() - old;
            const double way2 = dot(way, way), spoke2 = dot(spoke, spoke);
            settled[static_cast<std::size_t>(v)] = way2 <= settled_from * settled_from * spoke2;
            if (way2 <= near_enough * near_enough * spoke2) continue;
            const double worst = ring.worst_from(old);
            for (const double step : {1.0, 0.5}) {
                const Vec2 moved = old + way * step;
                if (!ring.no_worse_from(moved, worst)) continue;
                mesh.move(v, moved);
                for (const int t : ring.triangles()) touched[static_cast<std::size_t>(t)] = 1;
                break;
            }
        }
    }
    mesh.make_delaunay(touched);  // once: between the rounds it made no difference to the quality
}

int refine_poor(Triangulation& mesh, double angle) {
    const double limit = std::sin(angle * std::numbers::pi / 180);
    int added = 0;
    for (int t = 0; t < static_cast<int>(mesh.triangles().size()); ++t) {
        const auto& tri = mesh.triangle(t);
        if (!tri.inside()) continue;
        const Vec2 &a = mesh.point(tri.v[0]), &b = mesh.point(tri.v[1]), &c = mesh.point(tri.v[2]);
        const Vec2 ab = b - a, bc = c - b, ca = a - c;
        const double ab2 = dot(ab, ab), bc2 = dot(bc, bc), ca2 = dot(ca, ca), area2 = cross(ab, bc);
        const double shortest2 = std::min({ab2, bc2, ca2});
        // The sine of the smallest angle, opposite the shortest edge, is that edge over twice the circumradius.
        if (!(shortest2 * area2 * area2 < limit * limit * ab2 * bc2 * ca2)) continue;
        const double shortest = std::sqrt(shortest2);
        const Vec2 offset = circumcentre_offset(a, b, c);
        const Vec2 centre = a + offset;
        const int home = mesh.locate_visible(centre, t);
        if (home < 0 || !mesh.triangle(home).inside() || !has_room(mesh, centre, home, shortest)) continue;
        mesh.insert(centre, home);
        ++added;
    }
    return added;
}

}  // namespace dotsift
