#include "mesh/solid/body_mesh.hpp"

#include <algorithm>
#include <cmath>

namespace dotsift {

BodyMesh::BodyMesh(const Tetrahedralisation& mesh, const SurfaceMesh& surface,
                   const std::vector<std::int32_t>& vertex) {
    std::vector<std::int32_t> point_of(mesh.points().size(), -1);
    points = surface.points;
    on_surface = points.size();
    for (std::size_t p = 0; p < vertex.size(); ++p)
        point_of[static_cast<std::size_t>(vertex[p])] = static_cast<std::int32_t>(p);
    const auto& all = mesh.tetrahedra();
    std::vector<std::int32_t> number(all.size(), -1);
    for (std::size_t t = 0; t < all.size(); ++t)
        if (all[t].alive() && mesh.within()[t].body >= 0) {
            number[t] = static_cast<std::int32_t>(elements.size());
            elements.emplace_back();
        }
    for (std::size_t t = 0; t < all.size(); ++t) {
        if (number[t] < 0) continue;
        Element& e = element(number[t]);
        e.body = mesh.within()[t].body;
        e.wall = mesh.within()[t].wall;
        for (std::size_t i = 0; i < 4; ++i) {
            auto& p = point_of[static_cast<std::size_t>(all[t].v[i])];
            if (p < 0) {
                p = static_cast<std::int32_t>(points.size());
                points.push_back(mesh.point(all[t].v[i]));
            }
            e.v[i] = p;
            e.n[i] = all[t].n[i] < 0 ? -1 : number[static_cast<std::size_t>(all[t].n[i])];
        }
    }
    element_of_.assign(points.size(), -1);
    for (std::size_t t = 0; t < elements.size(); ++t)
        for (const auto p : elements[t].v) element_of_[static_cast<std::size_t>(p)] = static_cast<std::int32_t>(t);
}

std::array<Vec3, 4> BodyMesh::corners(std::int32_t t) const {
    const auto& v = element(t).v;
    return {point(v[0]), point(v[1]), point(v[2]), point(v[3])};
}

double BodyMesh::quality(std::int32_t t) const {
    return quality(element(t).v);
}

void BodyMesh::around(std::int32_t p, std::vector<std::int32_t>& out) const {
    out.clear();
    const std::int32_t start = element_of_[static_cast<std::size_t>(p)];
    if (start < 0) return;
    out.push_back(start);
    for (std::size_t k = 0; k < out.size(); ++k) {
        const Element& e = element(out[k]);
        for (std::size_t i = 0; i < 4; ++i) {
            if (e.v[i] == p || e.n[i] < 0) continue;
            if (std::find(out.begin(), out.end(), e.n[i]) == out.end()) out.push_back(e.n[i]);
        }
    }
}

bool BodyMesh::around_edge(std::int32_t t, std::size_t a, std::size_t b, std::vector<std::int32_t>& out,
                           std::vector<std::int32_t>& ring) const {
    const std::int32_t p = element(t).v[a], q = element(t).v[b];
    std::size_t c = 0;
    while (c == a || c == b) ++c;
    std::size_t d = 6 - a - b - c;
    // An even permutation keeps the orientation.
    const bool even = ((a > b) + (a > c) + (a > d) + (b > c) + (b > d) + (c > d)) % 2 == 0;
    if (!even) std::swap(c, d);
    out.clear();
    ring.clear();
    std::int32_t at = t, from = element(t).v[c], to = element(t).v[d];
    do {
        out.push_back(at);
        ring.push_back(from);
        const Element& e = element(at);
        const std::size_t behind = e.corner_of(from);
        if (e.wall[behind] >= 0 || e.n[behind] < 0) return false;
        at = e.n[behind];
        from = to;
        for (const auto v : element(at).v)
            if (v != p && v != q && v != from) to = v;
    } while (at != t);
    return true;
}

void BodyMesh::exchange(std::span<const std::int32_t> old, std::span<const std::array<std::int32_t, 4>> now) {
    struct Rim {
        std::array<std::int32_t, 3> v;
        std::int32_t beyond, wall;
        std::size_t side;  // of what is beyond
    };
    const auto sorted = [](std::array<std::int32_t, 3> v) {
        std::sort(v.begin(), v.end());
        return v;
    };
    std::vector<Rim> rim;
    const std::int32_t body = element(old.front()).body;
    for (const auto t : old) {
        const Element& e = element(t);
        for (std::size_t i = 0; i < 4; ++i) {
            if (e.n[i] >= 0 && std::find(old.begin(), old.end(), e.n[i]) != old.end() && e.wall[i] < 0) continue;
            const auto& c = corners_of_side[i];
            Rim r{sorted({e.v[c[0]], e.v[c[1]], e.v[c[2]]}), e.n[i], e.wall[i], 0};
            if (e.n[i] >= 0) r.side = side_towards(e.n[i], t);
            rim.push_back(r);
        }
    }
    for (const auto t : old) element(t).v[0] = -1;
    free_.insert(free_.end(), old.rbegin(), old.rend());
    made_.clear();
    for (const auto& v : now) {
        std::int32_t t = 0;
        if (free_.empty()) {
            t = static_cast<std::int32_t>(elements.size());
            elements.emplace_back();
        } else {
            t = free_.back();
            free_.pop_back();
        }
        Element e;
        e.v = v;
        e.body = body;
        element(t) = e;
        made_.push_back(t);
        for (const auto p : v) element_of_[static_cast<std::size_t>(p)] = t;
        for (std::size_t i = 0; i < 4; ++i) {
            const auto& c = corners_of_side[i];
            const auto own = sorted({v[c[0]], v[c[1]], v[c[2]]});
            const auto at = std::find_if(rim.begin(), rim.end(), [&](const Rim& r) { return r.v == own; });
            if (at == rim.end()) {  // of another new one
                rim.push_back({own, t, -1, i});
                continue;
            }
            element(t).n[i] = at->beyond;
            element(t).wall[i] = at->wall;
            if (at->beyond >= 0) element(at->beyond).n[at->side] = t;
            rim.erase(at);
        }
    }
}

/// The side of t behind which another one lies.
std::size_t BodyMesh::side_towards(std::int32_t t, std::int32_t neighbour) const {
    const Element& e = element(t);
    for (std::size_t i = 0; i < 4; ++i)
        if (e.n[i] == neighbour) return i;
    return 0;
}

bool BodyMesh::hand_over_sides(std::int32_t t, std::size_t p, std::size_t q) {
    Element& e = element(t);
    const std::int32_t face = e.wall[p], first = e.n[p], second = e.n[q];
    if ((first < 0) != (second < 0)) return false;
    if (first >= 0 && element(first).body != element(second).body) return false;
    if (first >= 0 && element(first).body == e.body) return false;
    for (std::size_t i = 0; i < 4; ++i) {
        if (i == p || i == q) continue;
        // The wall moves to the other two sides.
        if (e.n[i] < 0) return false;
    }
    for (std::size_t i = 0; i < 4; ++i) {
        if (i == p || i == q) continue;
        Element& other = element(e.n[i]);
        const std::size_t side = side_towards(e.n[i], t);
        other.wall[side] = face;
        e.wall[i] = face;
        if (first < 0) {
            other.n[side] = -1;
            for (const auto v : other.v) element_of_[static_cast<std::size_t>(v)] = e.n[i];
        }
    }
    if (first < 0) {
        e.v[0] = -1;
        free_.push_back(t);
        return true;
    }
    e.body = element(first).body;
    for (const std::size_t i : {p, q}) {
        Element& other = element(e.n[i]);
        other.wall[side_towards(e.n[i], t)] = -1;
        e.wall[i] = -1;
    }
    return true;
}

std::vector<std::int32_t> BodyMesh::compact() {
    std::vector<std::int32_t> number(elements.size(), -1), point(points.size(), -1);
    std::size_t count = 0;
    for (std::size_t t = 0; t < elements.size(); ++t)
        if (elements[t].alive()) {
            number[t] = static_cast<std::int32_t>(count);
            elements[count++] = elements[t];
        }
    elements.resize(count);
    for (const auto& e : elements)
        for (const auto v : e.v) point[static_cast<std::size_t>(v)] = 0;
    std::vector<Vec3> kept;
    std::size_t surface = 0;
    for (std::size_t p = 0; p < points.size(); ++p) {
        if (p == on_surface) surface = kept.size();
        if (point[p] < 0) continue;
        point[p] = static_cast<std::int32_t>(kept.size());
        kept.push_back(points[p]);
    }
    on_surface = on_surface >= points.size() ? kept.size() : surface;
    points = std::move(kept);
    element_of_.assign(points.size(), -1);
    for (std::size_t t = 0; t < elements.size(); ++t) {
        for (auto& v : elements[t].v) {
            v = point[static_cast<std::size_t>(v)];
            element_of_[static_cast<std::size_t>(v)] = static_cast<std::int32_t>(t);
        }
        for (auto& n : elements[t].n)
            if (n >= 0) n = number[static_cast<std::size_t>(n)];
    }
    free_.clear();
    return point;
}

}  // namespace dotsift
