#include "mesh/plane/triangulation.hpp"

#include <algorithm>

#include "base/predicates.hpp"
#include "mesh/order.hpp"

namespace dotsift {

Triangulation::Triangulation(const Box2& box) {
    const Vec2 c = box.centre();
    const double r = 2 * std::max(box.diagonal(), 1e-300);
    points_ = {c + Vec2{{-r, -r}}, c + Vec2{{r, -r}}, c + Vec2{{r, r}}, c + Vec2{{-r, r}}};
    triangles_.resize(2);
    triangles_[0].v = {0, 1, 2};
    triangles_[1].v = {0, 2, 3};
    triangles_[0].n[1] = 1;
    triangles_[1].n[2] = 0;
    triangle_of_ = {0, 0, 0, 1};
}

int Triangulation::side_towards(int t, int neighbour) const {
    const auto& n = triangle(t).n;
    return static_cast<int>(n[1] == neighbour) + 2 * static_cast<int>(n[2] == neighbour);  // no branch to mispredict
}

int Triangulation::locate(const Vec2& p, int start) const {
    int t = start, from = -1;
    for (;;) {
        const Triangle& tri = triangle(t);
        int to = -1;
        for (std::size_t i = 0; i < 3; ++i) {
            if (tri.n[i] < 0 || tri.n[i] == from) continue;
            if (orientation(point(tri.v[next_corner(i)]), point(tri.v[corner_before(i)]), p) < 0) {
                to = tri.n[i];
                break;
            }
        }
        if (to < 0) return t;
        from = t;
        t = to;
    }
}

int Triangulation::locate_visible(const Vec2& p, int start) const {
    // Along the straight line from the start's centre, so that the walk crosses a constraint only if one is in the way.
    const Triangle& first = triangle(start);
    const Vec2 origin = (point(first.v[0]) + point(first.v[1]) + point(first.v[2])) / 3;
    int t = start, from = -1;
    for (;;) {
        const Triangle& tri = triangle(t);
        int exit = -1;
        for (std::size_t i = 0; i < 3; ++i) {
            if (from >= 0 && tri.n[i] == from) continue;
            const Vec2 &a = point(tri.v[next_corner(i)]), &b = point(tri.v[corner_before(i)]);
            if (orientation(a, b, p) >= 0) continue;
            // p lies beyond this edge; is it the one that the line leaves through?
            if (orientation(origin, p, a) <= 0 && orientation(origin, p, b) >= 0) {
                exit = static_cast<int>(i);
                break;
            }
        }
        if (exit < 0)
            return orientation(point(tri.v[0]), point(tri.v[1]), p) >= 0 &&
                           orientation(point(tri.v[1]), point(tri.v[2]), p) >= 0 &&
                           orientation(point(tri.v[2]), point(tri.v[0]), p) >= 0
                       ? t
                       : -1;
        const auto e = static_cast<std::size_t>(exit);
        if (tri.segment[e] >= 0 || tri.n[e] < 0) return -1;
        from = t;
        t = tri.n[e];
    }
}

int Triangulation::insert(const Vec2& p, int t) {
    changed_.clear();
    const Triangle tri = triangle(t);
    std::array<double, 3> o{};
    for (std::size_t i = 0; i < 3; ++i) {
        if (point(tri.v[i]) == p) return tri.v[i];
        o[i] = orientation(point(tri.v[next_corner(i)]), point(tri.v[corner_before(i)]), p);
    }
    const int v = static_cast<int>(points_.size());
    points_.push_back(p);
    triangle_of_.push_back(t);
    std::size_t zero = 3;
    for (std::size_t i = 0; i < 3; ++i)
        if (o[i] == 0) zero = i;
    if (zero < 3)
        split_edge(t, static_cast<int>(zero), v);
    else
        split_triangle(t, v);
    legalise_star();
    return v;
}

void Triangulation::split_triangle(int t, int v) {
    const Triangle old = triangle(t);
    const int t1 = static_cast<int>(triangles_.size()), t2 = t1 + 1;
    triangles_.resize(triangles_.size() + 2);
    const std::array<int, 3> made{t, t1, t2};  // made[i] keeps the edge opposite to old.v[i]
    for (std::size_t i = 0; i < 3; ++i) {
        Triangle& n = at(made[i]);
        n.v = {v, old.v[next_corner(i)], old.v[corner_before(i)]};
        n.segment = {old.segment[i], -1, -1};
        n.face = old.face;
        n.n[1] = made[next_corner(i)];
        n.n[2] = made[corner_before(i)];
        n.n[0] = old.n[i];
        if (old.n[i] >= 0) at(old.n[i]).n[static_cast<std::size_t>(side_towards(old.n[i], t))] = made[i];
    }
    for (std::size_t i = 0; i < 3; ++i) {
        triangle_of_[static_cast<std::size_t>(old.v[i])] = made[next_corner(i)];
    }
    star_.assign(made.begin(), made.end());
    triangle_of_[static_cast<std::size_t>(v)] = t;
}

void Triangulation::split_edge(int t, int i, int v) {
    // Edge i of t from a to b, apex c; across it u with apex d. Both are halved.
    const auto k = static_cast<std::size_t>(i);
    const int u = triangle(t).n[k];
    const int a = triangle(t).v[next_corner(k)], b = triangle(t).v[corner_before(k)], c = triangle(t).v[k];
    const int segment = triangle(t).segment[k];
    const int t1 = static_cast<int>(triangles_.size());
    triangles_.resize(triangles_.size() + (u >= 0 ? 2 : 1));
    const Triangle old = triangle(t);
    const int right = old.n[next_corner(k)], right_segment = old.segment[next_corner(k)];  // edge b-c
    const int left = old.n[corner_before(k)];                                              // edge c-a
    at(t).v = {v, c, a};
    at(t).segment = {old.segment[corner_before(k)], segment, -1};
    at(t).n = {left, u, t1};
    at(t1).v = {v, b, c};
    at(t1).segment = {right_segment, -1, segment};
    at(t1).n = {right, t, -1};
    at(t1).face = old.face;
    if (right >= 0) at(right).n[static_cast<std::size_t>(side_towards(right, t))] = t1;
    triangle_of_[static_cast<std::size_t>(v)] = t;
    triangle_of_[static_cast<std::size_t>(a)] = t;
    triangle_of_[static_cast<std::size_t>(c)] = t;
    triangle_of_[static_cast<std::size_t>(b)] = t1;
    star_ = {t, t1};
    if (u < 0) return;
    const int u1 = t1 + 1;
    const Triangle far = triangle(u);
    std::size_t j = 0;
    while (far.v[j] == a || far.v[j] == b) ++j;
    const int d = far.v[j];
    const int far_left = far.n[next_corner(j)], far_left_segment = far.segment[next_corner(j)];        // edge a-d
    const int far_right = far.n[corner_before(j)], far_right_segment = far.segment[corner_before(j)];  // edge d-b
    at(u).v = {v, a, d};
    at(u).segment = {far_left_segment, -1, segment};
    at(u).n = {far_left, u1, t};
    at(u1).v = {v, d, b};
    at(u1).segment = {far_right_segment, segment, -1};
    at(u1).n = {far_right, t1, u};
    at(u1).face = far.face;
    at(t1).n[2] = u1;
    if (far_right >= 0) at(far_right).n[static_cast<std::size_t>(side_towards(far_right, u))] = u1;
    triangle_of_[static_cast<std::size_t>(d)] = u;
    star_.push_back(u);
    star_.push_back(u1);
}

void Triangulation::flip(int t, int i) {
    // t = (c, a, b) with edge a-b opposite c at index i; u = (d, b, a). Afterwards t = (c, a, d), u = (d, b, c).
    const auto k = static_cast<std::size_t>(i);
    const Triangle tt = triangle(t);
    const int u = tt.n[k];
    const Triangle uu = triangle(u);
    const auto j = static_cast<std::size_t>(side_towards(u, t));
    const int c = tt.v[k], a = tt.v[next_corner(k)], b = tt.v[corner_before(k)], d = uu.v[j];
    const int bc = tt.n[next_corner(k)], ca = tt.n[corner_before(k)], ad = uu.n[next_corner(j)],
              db = uu.n[corner_before(j)];
    Triangle& nt = at(t);
    nt.v = {c, a, d};
    nt.n = {ad, u, ca};
    nt.segment = {uu.segment[next_corner(j)], -1, tt.segment[corner_before(k)]};
    Triangle& nu = at(u);
    nu.v = {d, b, c};
    nu.n = {bc, t, db};
    nu.segment = {tt.segment[next_corner(k)], -1, uu.segment[corner_before(j)]};
    if (ad >= 0) at(ad).n[static_cast<std::size_t>(side_towards(ad, u))] = t;
    if (bc >= 0) at(bc).n[static_cast<std::size_t>(side_towards(bc, t))] = u;
    triangle_of_[static_cast<std::size_t>(a)] = t;
    triangle_of_[static_cast<std::size_t>(c)] = t;
    triangle_of_[static_cast<std::size_t>(b)] = u;
    triangle_of_[static_cast<std::size_t>(d)] = u;
}

bool Triangulation::is_delaunay(int t, std::size_t i) const {
    const Triangle& tri = triangle(t);
    const int u = tri.n[i];
    if (u < 0 || tri.segment[i] >= 0) return true;
    const int d = triangle(u).v[static_cast<std::size_t>(side_towards(u, t))];
    return in_circle(point(tri.v[0]), point(tri.v[1]), point(tri.v[2]), point(d)) <= 0;
}

void Triangulation::legalise_star() {
    // Every triangle of the star has the new vertex first, so edge 0 is the one to test.
    while (!star_.empty()) {
        const int t = star_.back();
        Triangle& tt = at(t);
        const int u = tt.n[0];
        if (u < 0 || tt.segment[0] >= 0) {
            changed_.push_back(t);
            star_.pop_back();
            continue;
        }
        Triangle& uu = at(u);
        const auto j = static_cast<std::size_t>(side_towards(u, t));
        const int v = tt.v[0], a = tt.v[1], b = tt.v[2], d = uu.v[j];
        if (in_circle(point(v), point(a), point(b), point(d)) <= 0) {
            changed_.push_back(t);
            star_.pop_back();
            continue;
        }
        // Edge a-b becomes v-d: t = (v, a, d), u = (v, d, b). Both are tested again.
        const int bv = tt.n[1], ad = uu.n[next_corner(j)], db = uu.n[corner_before(j)];
        const int bv_segment = tt.segment[1], ad_segment = uu.segment[next_corner(j)],
                  db_segment = uu.segment[corner_before(j)];
        tt.v[2] = d;
        tt.n[0] = ad;
        tt.n[1] = u;
        tt.segment[0] = ad_segment;
        tt.segment[1] = -1;
        uu.v = {v, d, b};
        uu.n = {db, bv, t};
        uu.segment = {db_segment, bv_segment, -1};
        if (ad >= 0) at(ad).n[static_cast<std::size_t>(side_towards(ad, u))] = t;
        if (bv >= 0) at(bv).n[static_cast<std::size_t>(side_towards(bv, t))] = u;
        triangle_of_[static_cast<std::size_t>(a)] = t;
        triangle_of_[static_cast<std::size_t>(b)] = u;
        triangle_of_[static_cast<std::size_t>(d)] = t;
        star_.push_back(u);
    }
}

void Triangulation::legalise(std::vector<std::pair<int, int>>& open) {
    while (!open.empty()) {
        const auto [t, i] = open.back();
        open.pop_back();
        if (is_delaunay(t, static_cast<std::size_t>(i))) continue;
        const int u = triangle(t).n[static_cast<std::size_t>(i)];
        flip(t, i);
        // t = (c, a, d), u = (d, b, c): the four outer edges are suspect now.
        open.emplace_back(t, 0);
        open.emplace_back(t, 2);
        open.emplace_back(u, 0);
        open.emplace_back(u, 2);
    }
}

void Triangulation::make_delaunay(const std::vector<char>& touched) {
    for (std::size_t t = 0; t < touched.size(); ++t) {
        if (!touched[t]) continue;
        open_.clear();
        for (std::size_t i = 0; i < 3; ++i) {
            // An edge between two of them is tested from the one that comes first.
            const int u = triangles_[t].n[i];
            if (u < static_cast<int>(t) && u >= 0 && touched[static_cast<std::size_t>(u)]) continue;
            open_.emplace_back(static_cast<int>(t), static_cast<int>(i));
        }
        legalise(open_);
    }
}

void Triangulation::renumber(int first) {
    const auto kept = static_cast<std::size_t>(first);
    const auto order = hilbert_order(std::vector<Vec2>(points_.begin() + first, points_.end()));
    std::vector<std::int32_t> new_vertex(points_.size());
    for (std::size_t v = 0; v < kept; ++v) new_vertex[v] = static_cast<std::int32_t>(v);
    const std::vector<Vec2> old_points = points_;
    for (std::size_t k = 0; k < order.size(); ++k) {
        const auto old = kept + static_cast<std::size_t>(order[k]);
        new_vertex[old] = static_cast<std::int32_t>(kept + k);
        points_[kept + k] = old_points[old];
    }
    // Triangles by their last vertex: those of the boundary then come with the inside beside them.
    const auto key = [&](const Triangle& t) {
        return static_cast<std::size_t>(
            std::max({new_vertex[static_cast<std::size_t>(t.v[0])], new_vertex[static_cast<std::size_t>(t.v[1])],
                      new_vertex[static_cast<std::size_t>(t.v[2])]}));
    };
    std::vector<std::int32_t> place(points_.size() + 1, 0), new_triangle(triangles_.size());
    for (const auto& t : triangles_) ++place[key(t) + 1];
    for (std::size_t v = 0; v < points_.size(); ++v) place[v + 1] += place[v];
    for (std::size_t t = 0; t < triangles_.size(); ++t) new_triangle[t] = place[key(triangles_[t])]++;
    std::vector<Triangle> sorted(triangles_.size());
    for (std::size_t t = 0; t < triangles_.size(); ++t) {
        Triangle tri = triangles_[t];
        for (std::size_t i = 0; i < 3; ++i) {
            tri.v[i] = new_vertex[static_cast<std::size_t>(tri.v[i])];
            if (tri.n[i] >= 0) tri.n[i] = new_triangle[static_cast<std::size_t>(tri.n[i])];
        }
        sorted[static_cast<std::size_t>(new_triangle[t])] = tri;
    }
    triangles_ = std::move(sorted);
    for (std::size_t t = 0; t < triangles_.size(); ++t)
        for (const auto v : triangles_[t].v) triangle_of_[static_cast<std::size_t>(v)] = static_cast<int>(t);
    changed_.clear();
}

void Triangulation::reserve(std::size_t vertices) {
    points_.reserve(vertices);
    triangle_of_.reserve(vertices);
    triangles_.reserve(2 * vertices);
}

bool Triangulation::find_edge(int a, int b, int& t, int& i) const {
    bool found = false;
    around(a, [&](int s, int k) {
        const Triangle& tri = triangle(s);
        const auto c = static_cast<std::size_t>(k);
        if (tri.v[next_corner(c)] == b) {
            t = s;
            i = static_cast<int>(corner_before(c));
            found = true;
        } else if (tri.v[corner_before(c)] == b) {
            t = s;
            i = static_cast<int>(next_corner(c));
            found = true;
        }
    });
    return found;
}

bool Triangulation::insert_segment(int a, int b, int id, Obstacle& obstacle) {
    const auto mark = [&](int t, int i) {
        at(t).segment[static_cast<std::size_t>(i)] = id;
        const int u = triangle(t).n[static_cast<std::size_t>(i)];
        if (u >= 0) at(u).segment[static_cast<std::size_t>(side_towards(u, t))] = id;
    };
    int t = -1, i = -1;
    if (find_edge(a, b, t, i)) {
        if (triangle(t).segment[static_cast<std::size_t>(i)] >= 0) {
            obstacle.segment = triangle(t).segment[static_cast<std::size_t>(i)];
            return false;
        }
        mark(t, i);
        return true;
    }
    // Flip the edges that cross a-b until it is there (Sloan 1993, Computers & Structures 47).
    const Vec2 &pa = point(a), &pb = point(b);
    std::vector<std::pair<int, int>> crossing;  // as vertex pairs, since triangles change
    int current = -1, opposite = -1;
    around(a, [&](int s, int k) {
        if (current >= 0 || obstacle.vertex >= 0) return;
        const Triangle& tri = triangle(s);
        const auto c = static_cast<std::size_t>(k);
        const int r = tri.v[next_corner(c)], l = tri.v[corner_before(c)];
        const double right = orientation(pa, pb, point(r)), left = orientation(pa, pb, point(l));
        if (right == 0 && dot(point(r) - pa, pb - pa) > 0) obstacle.vertex = r;
        if (left == 0 && dot(point(l) - pa, pb - pa) > 0) obstacle.vertex = l;
        if (right < 0 && left > 0) {
            current = s;
            opposite = k;
        }
    });
    if (obstacle.vertex >= 0 || current < 0) return false;
    for (;;) {
        const Triangle& tri = triangle(current);
        const auto k = static_cast<std::size_t>(opposite);
        if (tri.segment[k] >= 0) {
            obstacle.segment = tri.segment[k];
            return false;
        }
        const int r = tri.v[next_corner(k)], l = tri.v[corner_before(k)];
        crossing.emplace_back(r, l);
        const int u = tri.n[k];
        const int j = side_towards(u, current);
        const int d = triangle(u).v[static_cast<std::size_t>(j)];
        if (d == b) break;
        const double side = orientation(pa, pb, point(d));
        if (side == 0) {
            obstacle.vertex = d;
            return false;
        }
        current = u;
        // leave through the edge opposite to the one of r, l that lies on the same side as d
        opposite = corner_of(triangle(u), side > 0 ? l : r);
    }
    std::vector<std::pair<int, int>> made;
    for (std::size_t head = 0; head < crossing.size(); ++head) {
        const auto [p, q] = crossing[head];
        if (!find_edge(p, q, t, i)) continue;
        const Triangle& tri = triangle(t);
        const auto k = static_cast<std::size_t>(i);
        const int c = tri.v[k], u = tri.n[k];
        const int d = triangle(u).v[static_cast<std::size_t>(side_towards(u, t))];
        const Vec2 &pc = point(c), &pd = point(d), &pp = point(tri.v[next_corner(k)]),
                   &pq = point(tri.v[corner_before(k)]);
        if (orientation(pc, pp, pd) <= 0 || orientation(pd, pq, pc) <= 0) {
            crossing.emplace_back(p, q);  // not convex yet: later
            continue;
        }
        flip(t, i);
        if (c == a || c == b || d == a || d == b || (orientation(pa, pb, pc) > 0) == (orientation(pa, pb, pd) > 0))
            made.emplace_back(c, d);
        else
            crossing.emplace_back(c, d);
    }
    if (!find_edge(a, b, t, i)) return false;
    mark(t, i);
    open_.clear();
    for (const auto& [p, q] : made)
        if (find_edge(p, q, t, i)) open_.emplace_back(t, i);
    legalise(open_);
    return true;
}

std::vector<int> Triangulation::mark_faces(const std::function<SegmentSides(int segment)>& sides) {
    constexpr int unknown = -2;
    for (auto& t : triangles_) t.face = unknown;
    std::vector<int> contradicted;
    std::vector<int> open;
    for (std::size_t first = 0; first < triangles_.size(); ++first) {
        for (std::size_t i = 0; i < 3; ++i) {
            Triangle& t = triangles_[first];
            if (t.segment[i] < 0) continue;
            const SegmentSides s = sides(t.segment[i]);
            const int face = s.from == t.v[next_corner(i)] ? s.left : s.right;
            if (t.face != unknown) {
                if (t.face != face) contradicted.push_back(t.segment[i]);
                continue;
            }
            t.face = face;
            open.push_back(static_cast<int>(first));
            while (!open.empty()) {
                const Triangle tri = triangle(open.back());
                open.pop_back();
                for (std::size_t k = 0; k < 3; ++k) {
                    if (tri.segment[k] >= 0 || tri.n[k] < 0 || at(tri.n[k]).face != unknown) continue;
                    at(tri.n[k]).face = face;
                    open.push_back(tri.n[k]);
                }
            }
        }
    }
    for (auto& t : triangles_) t.face = t.face == unknown ? -1 : t.face;
    return contradicted;
}

void Triangulation::keep_faces(const std::function<bool(int)>& keep) {
    for (auto& t : triangles_)
        if (t.face >= 0 && !keep(t.face)) t.face = -1;
}

}  // namespace dotsift
