#include "mesh/solid/fill_bodies.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <deque>

#include "base/errors.hpp"

namespace dotsift {

namespace {

// A tetrahedron is finished when its circumradius is at most this times that of the regular one of the wanted edge.
constexpr double finished_ratio = 1.35;
const double radius_of_regular = std::sqrt(6.0) / 4;
// A new point keeps this share of the wanted size from every vertex near it, and this from walls.
constexpr double least_distance = 0.65, least_height = 0.42;

/// Circumcentres relative to a; not finite where there is none.
Vec3 circumcentre_offset(const Vec3& a, const Vec3& b, const Vec3& c) {
    const Vec3 u = b - a, v = c - a, n = cross(u, v);
    return (cross(n, u) * dot(v, v) + cross(v, n) * dot(u, u)) / (2 * dot(n, n));
}
Vec3 circumcentre_offset(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) {
    const Vec3 u = b - a, v = c - a, w = d - a, vw = cross(v, w);
    return (vw * dot(u, u) + cross(w, u) * dot(v, v) + cross(u, v) * dot(w, w)) / (2 * dot(u, vw));
}

class Front {
  public:
    Front(Tetrahedralisation& mesh, const SizeFieldIn<3>& sizes, std::size_t most)
        : mesh_(mesh), sizes_(sizes), most_(most) {}

    void run() {
        for (const Vec3& p : mesh_.points()) {
            std::int32_t hint = hint_.empty() ? -1 : hint_.back();
            // The corners of what lies round everything are far away, and no tetrahedron inside has them.
            size_.push_back(sizes_.at(p, hint));
            hint_.push_back(hint);
        }
        state_.assign(mesh_.tetrahedra().size(), State::open);
        for (std::size_t t = 0; t < state_.size(); ++t) judge(static_cast<std::int32_t>(t));
        for (std::size_t t = 0; t < state_.size(); ++t) enqueue(static_cast<std::int32_t>(t));
        drain();
        for (bool again = true; again;) {
            again = false;
            for (std::size_t t = 0; t < state_.size(); ++t) {
                if (state_[t] != State::open || !inside(static_cast<std::int32_t>(t))) continue;
                if (try_circumcentre(static_cast<std::int32_t>(t)))
                    again = true;
                else
                    state_[t] = State::stuck;
                drain();
            }
        }
    }

  private:
    enum class State : char { open, queued, finished, stuck };

    [[nodiscard]] State& state(std::int32_t t) { return state_[static_cast<std::size_t>(t)]; }
    [[nodiscard]] const Tetrahedralisation::Within& within(std::int32_t t) const {
        return mesh_.within()[static_cast<std::size_t>(t)];
    }
    [[nodiscard]] bool inside(std::int32_t t) const { return mesh_.tetrahedron(t).alive() && within(t).body >= 0; }
    [[nodiscard]] double size_at(std::int32_t v) const { return size_[static_cast<std::size_t>(v)]; }
    [[nodiscard]] const Vec3& corner(std::int32_t t, std::size_t i) const {
        return mesh_.point(mesh_.tetrahedron(t).v[i]);
    }

    void judge(std::int32_t t) {
        if (!inside(t)) {
            state(t) = State::finished;
            return;
        }
        state(t) = State::open;
        const auto& v = mesh_.tetrahedron(t).v;
        const Vec3 &a = corner(t, 0), &b = corner(t, 1), &c = corner(t, 2), &d = corner(t, 3);
        const double radius = norm(circumcentre_offset(a, b, c, d));
        const double limit = finished_ratio * radius_of_regular;
        const double mean = (size_at(v[0]) + size_at(v[1]) + size_at(v[2]) + size_at(v[3])) / 4;
        if (!(radius <= limit * mean)) return;
        std::int32_t hint = hint_[static_cast<std::size_t>(v[0])];
        if (radius <= limit * sizes_.at((a + b + c + d) / 4, hint)) state(t) = State::finished;
    }

    [[nodiscard]] bool on_front(std::int32_t t, std::size_t i) {
        return within(t).wall[i] >= 0 || state(mesh_.tetrahedron(t).n[i]) == State::finished;
    }

    void enqueue(std::int32_t t) {
        if (state(t) != State::open) return;
        for (std::size_t i = 0; i < 4; ++i) {
            if (!on_front(t, i)) continue;
            state(t) = State::queued;
            queue_.push_back({t, mesh_.tetrahedron(t).v});
            return;
        }
    }

    void drain() {
        while (!queue_.empty()) {
            const Entry entry = queue_.front();
            queue_.pop_front();
            if (state(entry.tetrahedron) != State::queued || mesh_.tetrahedron(entry.tetrahedron).v != entry.v)
                continue;
            if (!advance(entry.tetrahedron)) state(entry.tetrahedron) = State::stuck;
        }
    }

    bool advance(std::int32_t t) {
        std::size_t side = 4;
        double least = 0;
        Vec3 foot;
        for (std::size_t i = 0; i < 4; ++i) {
            if (!on_front(t, i)) continue;
            const auto& c = corners_of_side[i];
            const Vec3 offset = circumcentre_offset(corner(t, c[0]), corner(t, c[1]), corner(t, c[2]));
            const double r = norm(offset);
            if (side == 4 || r < least) {
                side = i;
                least = r;
                foot = corner(t, c[0]) + offset;
            }
        }
        if (side == 4) return false;
        const auto& c = corners_of_side[side];
        const Vec3 &p = corner(t, c[0]), &q = corner(t, c[1]), &r = corner(t, c[2]);
        Vec3 n = cross(q - p, r - p);
        n = n / norm(n);
        const Vec3 centre = corner(t, 0) + circumcentre_offset(corner(t, 0), corner(t, 1), corner(t, 2), corner(t, 3));
        const double up = dot(centre - foot, n);
        if (!(up > 0)) return try_circumcentre(t);
        const auto& v = mesh_.tetrahedron(t).v;
        const double h = (size_at(v[c[0]]) + size_at(v[c[1]]) + size_at(v[c[2]])) / 3;
        const double radius = std::min(std::max(radius_of_regular * h, least), (least * least + up * up) / (2 * up));
        return place(foot + n * (radius + std::sqrt(std::max(0.0, radius * radius - least * least))), t);
    }

    bool try_circumcentre(std::int32_t t) {
        const Vec3 offset = circumcentre_offset(corner(t, 0), corner(t, 1), corner(t, 2), corner(t, 3));
        if (!std::isfinite(norm(offset))) return false;
        return place(corner(t, 0) + offset, t);
    }

    /// Whether a point in t keeps its distance from vertices and walls near it.
    [[nodiscard]] bool has_room(const Vec3& x, std::int32_t t, double h) const {
        const double least2 = least_distance * least_distance * h * h;
        const auto crowded = [&](std::int32_t k) {
            for (const auto v : mesh_.tetrahedron(k).v)
                if (dot(mesh_.point(v) - x, mesh_.point(v) - x) < least2) return true;
            for (std::size_t i = 0; i < 4; ++i) {
                if (within(k).wall[i] < 0) continue;
                const auto& c = corners_of_side[i];
                const Vec3 &p = corner(k, c[0]), &q = corner(k, c[1]), &r = corner(k, c[2]);
                const Vec3 n = cross(q - p, r - p);
                const double twice = norm(n);
                // As high over it as its sides are long, or as is wanted there.
                if (dot(x - p, n) < least_height * std::min(h, std::sqrt(twice)) * twice) return true;
            }
            return false;
        };
        if (crowded(t)) return false;
        for (std::size_t i = 0; i < 4; ++i)
            if (within(t).wall[i] < 0 && crowded(mesh_.tetrahedron(t).n[i])) return false;
        return true;
    }

    bool place(const Vec3& x, std::int32_t from) {
        const std::int32_t t = mesh_.locate_visible(x, from);
        if (t < 0 || !inside(t)) return false;
        std::int32_t hint = hint_[static_cast<std::size_t>(mesh_.tetrahedron(t).v[0])];
        const double h = sizes_.at(x, hint);
        if (!has_room(x, t, h)) return false;
        if (mesh_.count() > most_)
            throw MeshError(fmt::format("the mesh would have more than {} elements", most_), {},
                            "ask for larger sizes or raise size.most_elements");
        const std::size_t count = mesh_.points().size();
        mesh_.insert(x, t);
        if (mesh_.points().size() == count) return false;
        size_.push_back(h);
        hint_.push_back(hint);
        state_.resize(mesh_.tetrahedra().size(), State::open);
        for (const auto c : mesh_.made()) judge(c);
        for (const auto c : mesh_.made()) {
            enqueue(c);
            for (const auto n : mesh_.tetrahedron(c).n)
                if (n >= 0 && mesh_.tetrahedron(n).alive()) enqueue(n);
        }
        return true;
    }

    struct Entry {
        std::int32_t tetrahedron;
        std::array<std::int32_t, 4> v;
    };
    Tetrahedralisation& mesh_;
    const SizeFieldIn<3>& sizes_;
    std::size_t most_;
    std::vector<double> size_;
    std::vector<std::int32_t> hint_;
    std::vector<State> state_;
    std::deque<Entry> queue_;
};

}  // namespace

void fill_bodies(Tetrahedralisation& mesh, const SizeFieldIn<3>& sizes, std::size_t most) {
    Front(mesh, sizes, most).run();
}

}  // namespace dotsift
