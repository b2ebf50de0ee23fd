#include "mesh/fill.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <deque>
#include <numbers>

#include "base/errors.hpp"
#include "base/predicates.hpp"
#include "mesh/shape.hpp"

namespace dotsift {

namespace {

// A triangle is finished when its circumradius is at most this times that of the wanted equilateral one. Between
// 1.2 and 1.5 the edge lengths scatter round the wanted size; measured in bench/.
constexpr double finished_ratio = 1.4;
// A new point keeps this share of the wanted size from every vertex and constraint near it.
constexpr double least_distance = 0.55;
constexpr double least_height = 0.45;

constexpr std::size_t next(std::size_t i) {
    return i == 2 ? 0 : i + 1;
}
constexpr std::size_t before(std::size_t i) {
    return i == 0 ? 2 : i - 1;
}

/// Circumcentre relative to a, or nothing sensible for a degenerate triangle (then the length is not finite).
Vec2 circumcentre_offset(const Vec2& a, const Vec2& b, const Vec2& c) {
    const Vec2 u = b - a, v = c - a;
    const double d = 2 * cross(u, v), uu = dot(u, u), vv = dot(v, v);
    return {{(v[1] * uu - u[1] * vv) / d, (u[0] * vv - v[0] * uu) / d}};
}

double height_over(const Vec2& p, const Vec2& a, const Vec2& b) {
    return cross(b - a, p - a) / distance(a, b);
}

/// Whether a point in triangle t keeps its distance from the triangle's vertices and from constraints near it.
bool has_room(const Triangulation& mesh, const Vec2& p, int t, double h) {
    const auto& tri = mesh.triangle(t);
    for (std::size_t i = 0; i < 3; ++i) {
        if (distance(mesh.point(tri.v[i]), p) < least_distance * h) return false;
        const Vec2 &a = mesh.point(tri.v[next(i)]), &b = mesh.point(tri.v[before(i)]);
        if (tri.segment[i] >= 0) {
            if (height_over(p, a, b) < least_height * std::min(h, distance(a, b))) return false;
            continue;
        }
        const auto& other = mesh.triangle(tri.n[i]);
        for (std::size_t j = 0; j < 3; ++j) {
            if (distance(mesh.point(other.v[j]), p) < least_distance * h) return false;
            if (other.segment[j] < 0) continue;
            const Vec2 &c = mesh.point(other.v[next(j)]), &d = mesh.point(other.v[before(j)]);
            if (height_over(p, c, d) < least_height * std::min(h, distance(c, d))) return false;
        }
    }
    return true;
}

class Front {
  public:
    Front(Triangulation& mesh, const SizeField& sizes, std::size_t most) : mesh_(mesh), sizes_(sizes), most_(most) {}

    void run() {
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
    enum class State : char { open, finished, stuck };

    double wanted_size(int t) const {
        const auto& v = mesh_.triangle(t).v;
        double h = 0;
        for (const int k : v) h += size_[static_cast<std::size_t>(k)];
        return h / 3;
    }

    void judge(int t) {
        const auto& tri = mesh_.triangle(t);
        auto& state = state_[static_cast<std::size_t>(t)];
        if (!tri.inside()) {
            state = State::finished;
            return;
        }
        const Vec2 &a = mesh_.point(tri.v[0]), &b = mesh_.point(tri.v[1]), &c = mesh_.point(tri.v[2]);
        const double radius = norm(circumcentre_offset(a, b, c));
        const double limit = finished_ratio / std::numbers::sqrt3;
        state = State::open;
        if (!(radius <= limit * wanted_size(t))) return;
        // The vertices may all lie where the field is coarse; what counts is the place of the triangle. The field is
        // asked only if its values at the vertices leave a doubt.
        const Vec2 centre = (a + b + c) / 3;
        double least = 0;
        for (const int k : tri.v)
            least = std::max(least,
                             size_[static_cast<std::size_t>(k)] - sizes_.steepest() * distance(mesh_.point(k), centre));
        std::int32_t hint = hint_[static_cast<std::size_t>(tri.v[0])];
        if (radius <= limit * least || radius <= limit * sizes_.at(centre, hint)) state = State::finished;
    }

    void enqueue(int t) {
        if (state_[static_cast<std::size_t>(t)] != State::open) return;
        const auto& tri = mesh_.triangle(t);
        for (std::size_t i = 0; i < 3; ++i) {
            if (tri.segment[i] >= 0 ||
                (tri.n[i] >= 0 && state_[static_cast<std::size_t>(tri.n[i])] == State::finished)) {
                queue_.push_back({t, tri.v});
                return;
            }
        }
    }

    void drain() {
        while (!queue_.empty()) {
            const auto [t, v] = queue_.front();
            queue_.pop_front();
            if (state_[static_cast<std::size_t>(t)] != State::open || mesh_.triangle(t).v != v) continue;
            if (!advance(t)) state_[static_cast<std::size_t>(t)] = State::stuck;
        }
    }

    /// Places a point over the shortest front edge of t.
    bool advance(int t) {
        const auto& tri = mesh_.triangle(t);
        std::size_t edge = 3;
        double shortest = 0;
        for (std::size_t i = 0; i < 3; ++i) {
            const bool front = tri.segment[i] >= 0 || state_[static_cast<std::size_t>(tri.n[i])] == State::finished;
            if (!front) continue;
            const double l = distance(mesh_.point(tri.v[next(i)]), mesh_.point(tri.v[before(i)]));
            if (edge == 3 || l < shortest) {
                edge = i;
                shortest = l;
            }
        }
        if (edge == 3) return false;
        const Vec2 &a = mesh_.point(tri.v[next(edge)]), &b = mesh_.point(tri.v[before(edge)]);
        const Vec2 middle = (a + b) * 0.5, normal = turned_left(b - a) / shortest;
        const Vec2 centre = a + circumcentre_offset(a, b, mesh_.point(tri.v[edge]));
        const double p = shortest / 2, q = dot(centre - middle, normal);
        if (!(q > 0)) return try_circumcentre(t);
        const double h = (size_[static_cast<std::size_t>(tri.v[next(edge)])] +
                          size_[static_cast<std::size_t>(tri.v[before(edge)])]) /
                         2;
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
                if (n >= 0 && state_[static_cast<std::size_t>(n)] == State::open) enqueue(n);
        }
        return true;
    }

    struct Entry {
        int triangle;
        std::array<std::int32_t, 3> vertices;
    };
    Triangulation& mesh_;
    const SizeField& sizes_;
    std::size_t most_;
    std::vector<double> size_;        ///< wanted at each vertex
    std::vector<std::int32_t> hint_;  ///< the size source that decided there
    std::vector<State> state_;
    std::deque<Entry> queue_;
};

/// What lies round a vertex: its neighbours in order, anticlockwise, and the triangles between them.
struct Ring {
    std::vector<Vec2> points;
    std::vector<int> triangles;

    /// False if the ring is not closed within the part.
    bool gather(const Triangulation& mesh, int v) {
        points.clear();
        triangles.clear();
        bool inside = true;
        mesh.around(v, [&](int t, int k) {
            const auto& tri = mesh.triangle(t);
            inside = inside && tri.inside();
            points.push_back(mesh.point(tri.v[next(static_cast<std::size_t>(k))]));
            triangles.push_back(t);
        });
        return inside;
    }
    /// The worst quality of the triangles from p; stops once it is below `enough`.
    [[nodiscard]] double worst_from(const Vec2& p, double enough) const {
        double worst = 1;
        for (std::size_t i = 0; i < points.size() && worst >= enough; ++i)
            worst = std::min(worst, triangle_quality(p, points[i], points[i + 1 == points.size() ? 0 : i + 1]));
        return worst;
    }
    /// The mean of the apexes of equilateral triangles on the ring's edges.
    [[nodiscard]] Vec2 ideal() const {
        Vec2 sum;
        for (std::size_t i = 0; i < points.size(); ++i) {
            const Vec2 &a = points[i], &b = points[i + 1 == points.size() ? 0 : i + 1];
            sum += (a + b) * 0.5 + turned_left(b - a) * (std::numbers::sqrt3 / 2);
        }
        return sum / static_cast<double>(points.size());
    }
    [[nodiscard]] bool valid_from(const Vec2& p) const {
        for (std::size_t i = 0; i < points.size(); ++i)
            if (!(orientation(p, points[i], points[i + 1 == points.size() ? 0 : i + 1]) > 0)) return false;
        return true;
    }
};

}  // namespace

void fill(Triangulation& mesh, const SizeField& sizes, std::size_t most_triangles) {
    Front(mesh, sizes, most_triangles).run();
}

void smooth(Triangulation& mesh, int rounds, int first_movable) {
    // A vertex that is this near to its ideal place, in shares of the way to its neighbours, stays.
    constexpr double near_enough = 0.02;
    Ring ring;
    std::vector<char> touched(mesh.triangles().size());
    std::vector<int> list;
    for (int round = 0; round < rounds; ++round) {
        list.clear();
        std::fill(touched.begin(), touched.end(), 0);
        for (int v = first_movable; v < static_cast<int>(mesh.points().size()); ++v) {
            if (!ring.gather(mesh, v)) continue;
            const Vec2 old = mesh.point(v), ideal = ring.ideal();
            if (distance(old, ideal) <= near_enough * distance(old, ring.points.front())) continue;
            const double worst = ring.worst_from(old, -1);
            for (const double step : {1.0, 0.5}) {
                const Vec2 moved = old * (1 - step) + ideal * step;
                if (ring.worst_from(moved, worst) < worst || !ring.valid_from(moved)) continue;
                mesh.move(v, moved);
                for (const int t : ring.triangles) {
                    if (touched[static_cast<std::size_t>(t)]) continue;
                    touched[static_cast<std::size_t>(t)] = 1;
                    list.push_back(t);
                }
                break;
            }
        }
        mesh.make_delaunay(list);
    }
}

int refine_poor(Triangulation& mesh, double angle) {
    const double limit = std::sin(angle * std::numbers::pi / 180);
    int added = 0;
    for (int t = 0; t < static_cast<int>(mesh.triangles().size()); ++t) {
        const auto& tri = mesh.triangle(t);
        if (!tri.inside()) continue;
        const Vec2 &a = mesh.point(tri.v[0]), &b = mesh.point(tri.v[1]), &c = mesh.point(tri.v[2]);
        const double shortest = std::min({distance(a, b), distance(b, c), distance(c, a)});
        const Vec2 offset = circumcentre_offset(a, b, c);
        if (!(shortest < 2 * limit * norm(offset)))
            continue;  // sine rule: opposite the shortest edge is the smallest angle
        const Vec2 centre = a + offset;
        const int home = mesh.locate_visible(centre, t);
        if (home < 0 || !mesh.triangle(home).inside() || !has_room(mesh, centre, home, shortest)) continue;
        mesh.insert(centre, home);
        ++added;
    }
    return added;
}

}  // namespace dotsift
