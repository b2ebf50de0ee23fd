#include "mesh/solid/tetrahedralisation.hpp"

#include <algorithm>
#include <bit>

#include "base/predicates.hpp"
#include "mesh/order.hpp"

namespace dotsift {

namespace {

/// Where in the table an edge is looked for first; `bits` is the logarithm of its size.
std::size_t place_of(std::int32_t a, std::int32_t b, int bits) {
    const auto mixed =
        (static_cast<std::uint64_t>(static_cast<std::uint32_t>(a)) << 32 | static_cast<std::uint32_t>(b)) *
        11400714819323198485ULL;
    return static_cast<std::size_t>(mixed >> (64 - bits));
}

}  // namespace

Tetrahedralisation::Tetrahedralisation(const Box<3>& box) {
    // A regular tetrahedron whose inner sphere is more than twice as large as the box. Far from the origin, corners
    // must not become one by rounding.
    constexpr double least_share = 1e-6, least = 1e-100;
    const Vec3 c = box.centre();
    const double r = 4 * std::max({box.diagonal(), least_share * norm(c), least});
    points_ = {c + Vec3{{r, r, r}}, c + Vec3{{r, -r, -r}}, c + Vec3{{-r, r, -r}}, c + Vec3{{-r, -r, r}}};
    tetrahedra_.resize(1);
    tetrahedra_[0].v = {0, 1, 2, 3};
    if (orientation(points_[0], points_[1], points_[2], points_[3]) < 0)
        std::swap(tetrahedra_[0].v[2], tetrahedra_[0].v[3]);
    tetrahedron_of_ = {0, 0, 0, 0};
    seen_ = {0};
}

void Tetrahedralisation::reserve(std::size_t vertices) {
    points_.reserve(vertices + 4);
    tetrahedron_of_.reserve(vertices + 4);
    const std::size_t tetrahedra = 7 * vertices + 64;  // about 6.8 a vertex
    tetrahedra_.reserve(tetrahedra);
    seen_.reserve(tetrahedra);
}

void Tetrahedralisation::set_tetrahedra(std::vector<Tetrahedron> tetrahedra) {
    tetrahedra_ = std::move(tetrahedra);
    free_.clear();
    made_.clear();
    within_.clear();
    seen_.assign(tetrahedra_.size(), 0);
    round_ = 0;
    for (std::size_t t = 0; t < tetrahedra_.size(); ++t)
        for (const auto v : tetrahedra_[t].v)
            tetrahedron_of_[static_cast<std::size_t>(v)] = static_cast<std::int32_t>(t);
}

std::int32_t Tetrahedralisation::locate(const Vec3& p, std::int32_t start) const {
    std::int32_t t = start, from = -1;
    for (;;) {
        const Tetrahedron& tet = tetrahedron(t);
        std::int32_t to = -1;
        for (std::size_t i = 0; i < 4; ++i) {
            if (tet.n[i] < 0 || tet.n[i] == from) continue;
            const auto& c = corners_of_side[i];
            if (orientation(point(tet.v[c[0]]), point(tet.v[c[1]]), point(tet.v[c[2]]), p) < 0) {
                to = tet.n[i];
                break;
            }
        }
        if (to < 0) return t;
        from = t;
        t = to;
    }
}

std::int32_t Tetrahedralisation::locate_visible(const Vec3& p, std::int32_t start) const {
    // With walls there is no order in which tetrahedra lie behind each other: a walk may go round for ever.
    constexpr int most_steps = 200;
    std::int32_t t = start, from = -1;
    for (int step = 0; step < most_steps; ++step) {
        const Tetrahedron& tet = tetrahedron(t);
        std::int32_t to = -1;
        bool leaves = false;
        for (std::size_t i = 0; i < 4 && to < 0; ++i) {
            if (tet.n[i] >= 0 && tet.n[i] == from) continue;
            const auto& c = corners_of_side[i];
            if (!(orientation(point(tet.v[c[0]]), point(tet.v[c[1]]), point(tet.v[c[2]]), p) < 0)) continue;
            if (tet.n[i] < 0 || within_[static_cast<std::size_t>(t)].wall[i] >= 0)
                leaves = true;
            else
                to = tet.n[i];
        }
        if (to < 0) return leaves ? -1 : t;
        from = t;
        t = to;
    }
    return -1;
}

std::int32_t Tetrahedralisation::insert(const Vec3& p, std::int32_t t) {
    made_.clear();
    for (const auto v : tetrahedron(t).v)
        if (point(v) == p) return v;
    left_out_.clear();
    find_cavity(p, t);
    if (!within_.empty() && !make_visible(p, t)) return -1;
    const auto v = static_cast<std::int32_t>(points_.size());
    points_.push_back(p);
    tetrahedron_of_.push_back(-1);
    fill_cavity(v);
    return v;
}

void Tetrahedralisation::find_cavity(const Vec3& p, std::int32_t t) {
    round_ += 2;
    const std::uint32_t outside = round_, inside = round_ + 1;
    cavity_.assign(1, t);
    rim_.clear();
    seen_[static_cast<std::size_t>(t)] = inside;
    for (const auto l : left_out_) seen_[static_cast<std::size_t>(l)] = outside;
    for (std::size_t k = 0; k < cavity_.size(); ++k) {
        const Tetrahedron& tet = tetrahedron(cavity_[k]);
        for (std::size_t i = 0; i < 4; ++i) {
            const std::int32_t n = tet.n[i];
            const std::int32_t wall = within_.empty() ? -1 : within_[static_cast<std::size_t>(cavity_[k])].wall[i];
            if (n >= 0 && wall < 0) {
                auto& seen = seen_[static_cast<std::size_t>(n)];
                if (seen == inside) continue;
                if (seen != outside) {
                    const auto& v = tetrahedron(n).v;
                    if (in_sphere(point(v[0]), point(v[1]), point(v[2]), point(v[3]), p) > 0) {
                        seen = inside;
                        cavity_.push_back(n);
                        continue;
                    }
                    seen = outside;
                }
            }
            const auto& c = corners_of_side[i];
            rim_.push_back({{tet.v[c[0]], tet.v[c[1]], tet.v[c[2]]}, n, wall, cavity_[k]});
        }
    }
}

bool Tetrahedralisation::make_visible(const Vec3& p, std::int32_t t) {
    for (;;) {
        const std::size_t before = left_out_.size();
        for (const RimSide& side : rim_) {
            if (orientation(point(side.v[0]), point(side.v[1]), point(side.v[2]), p) > 0) continue;
            if (side.owner == t) return false;
            left_out_.push_back(side.owner);
        }
        if (left_out_.size() == before) return true;
        find_cavity(p, t);
    }
}

std::int32_t Tetrahedralisation::new_place() {
    if (!free_.empty()) {
        const std::int32_t t = free_.back();
        free_.pop_back();
        return t;
    }
    tetrahedra_.emplace_back();
    seen_.push_back(0);
    if (!within_.empty()) within_.emplace_back();
    return static_cast<std::int32_t>(tetrahedra_.size()) - 1;
}

void Tetrahedralisation::fill_cavity(std::int32_t v) {
    const std::int32_t body = within_.empty() ? -1 : within_[static_cast<std::size_t>(cavity_.front())].body;
    for (const auto t : cavity_) tetrahedra_[static_cast<std::size_t>(t)].v[0] = -1;
    // The places that became free, from the first on.
    free_.insert(free_.end(), cavity_.rbegin(), cavity_.rend());
    const int bits = static_cast<int>(std::bit_width(3 * rim_.size())) + 1;
    const std::size_t size = std::size_t{1} << bits;
    if (waiting_.size() < size) waiting_.resize(size);
    std::fill_n(waiting_.begin(), size, Waiting{});
    for (const RimSide& side : rim_) {
        const std::int32_t t = new_place();
        made_.push_back(t);
        Tetrahedron& tet = tetrahedra_[static_cast<std::size_t>(t)];
        tet.v = {v, side.v[0], side.v[2], side.v[1]};
        tet.n = {side.beyond, -1, -1, -1};
        if (!within_.empty()) within_[static_cast<std::size_t>(t)] = {body, {side.wall, -1, -1, -1}};
        for (const auto w : side.v) tetrahedron_of_[static_cast<std::size_t>(w)] = t;
        if (side.beyond >= 0) {
            // The side there that has none of the other vertex.
            Tetrahedron& other = tetrahedra_[static_cast<std::size_t>(side.beyond)];
            for (std::size_t i = 0; i < 4; ++i)
                if (std::find(side.v.begin(), side.v.end(), other.v[i]) == side.v.end()) other.n[i] = t;
        }
        // Each edge of the rim is met twice: by the two new tetrahedra that share the side through it and the point.
        for (std::size_t i = 0; i < 3; ++i) {
            const std::int32_t p = tet.v[1 + (i + 1) % 3], q = tet.v[1 + (i + 2) % 3];
            const std::int32_t a = std::min(p, q), b = std::max(p, q);
            std::size_t at = place_of(a, b, bits);
            while (waiting_[at].a >= 0 && (waiting_[at].a != a || waiting_[at].b != b)) at = (at + 1) & (size - 1);
            Waiting& w = waiting_[at];
            if (w.a < 0) {
                w = {a, b, t, static_cast<std::uint32_t>(i + 1)};
                continue;
            }
            tet.n[i + 1] = w.tetrahedron;
            tetrahedra_[static_cast<std::size_t>(w.tetrahedron)].n[w.side] = t;
        }
    }
    tetrahedron_of_[static_cast<std::size_t>(v)] = made_.front();
}

Tetrahedralisation tetrahedralise(const std::vector<Vec3>& points, std::vector<std::int32_t>& vertex) {
    Box<3> box;
    for (const Vec3& p : points) box.add(p);
    Tetrahedralisation out(box);
    out.reserve(points.size());
    // Half of them come in the last round, a quarter in the one before, and so on, by a mixed number of each.
    const auto round = [](int k) {
        const auto mixed = static_cast<std::uint64_t>(k + 1) * 11400714819323198485ULL;
        return std::countr_zero(mixed >> 20 | std::uint64_t{1} << 40);
    };
    auto order = hilbert_order(points);
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) { return round(a) > round(b); });
    vertex.assign(points.size(), -1);
    std::int32_t near = 0;
    for (const int k : order) {
        const Vec3& p = points[static_cast<std::size_t>(k)];
        const std::int32_t v = out.insert(p, out.locate(p, near));
        vertex[static_cast<std::size_t>(k)] = v;
        near = out.tetrahedron_of(v);
    }
    return out;
}

}  // namespace dotsift
