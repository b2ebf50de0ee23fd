#include "mesh/plane/quadrilaterals/quadrilaterals.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <deque>
#include <map>

#include "base/errors.hpp"
#include "mesh/elements/shape.hpp"
#include "mesh/plane/corner_topology.hpp"
#include "mesh/plane/fill.hpp"
#include "mesh/plane/quadrilaterals/cross_field.hpp"
#include "mesh/plane/quadrilaterals/pairing.hpp"
#include "mesh/plane/quadrilaterals/relax.hpp"

namespace dotsift {

namespace {

using Element = CornerMesh::Element;

constexpr double background_coarser = 2;     // the triangles that carry the directions, over the elements
constexpr double least_grid_distance = 0.7;  // of the wanted size, between points of the grid
constexpr double least_grid_height = 0.55;   // of the wanted size, above segments
constexpr double worst_pair = 0.15;          // scaled Jacobian of triangles that are joined, before points move
constexpr int grid_relax_rounds = 12;
// Of the size of elements that are to be divided in four: a grid cannot grow faster round a point.
constexpr double steepest_large = 0.8;

/// Grids of points that grow from the boundary into the face.
class GridFront {
  public:
    GridFront(Triangulation& mesh, const SizeField& sizes, const CrossField& cross, std::size_t most)
        : mesh_(mesh), sizes_(sizes), cross_(cross), most_(most) {}

    void run(const std::vector<int>& starts) {
        for (const int v : starts) open_.push_back({v, 0, -1});
        while (!open_.empty()) {
            Start s = open_.front();
            open_.pop_front();
            grow(s);
        }
    }

  private:
    struct Start {
        int vertex, background;
        std::int32_t size_hint;
    };

    void grow(Start& s) {
        const Vec2 p = mesh_.point(s.vertex);
        const double angle = cross_.angle_at(p, s.background);
        const double here = sizes_.at(p, s.size_hint);
        for (int d = 0; d < 4; ++d) {
            const double a = angle + d * std::numbers::pi / 2;
            const Vec2 direction{{std::cos(a), std::sin(a)}};
            // The step is as long as the size in its middle; the direction, too, is taken there.
            int background = s.background;
            std::int32_t hint = s.size_hint;
            const Vec2 middle = p + direction * (here / 2);
            const double h = sizes_.at(middle, hint);
            const double turned = nearest_turn(cross_.angle_at(middle, background), a);
            const Vec2 x = p + Vec2{{std::cos(turned), std::sin(turned)}} * h;
            const int from = triangle_towards(s.vertex, x);
            if (from < 0) continue;
            const int t = mesh_.locate_visible(x, from);
            if (t < 0 || !mesh_.triangle(t).inside() || !has_room(x, t, sizes_.at(x, hint))) continue;
            if (mesh_.triangles().size() > most_)
                throw MeshError(fmt::format("the mesh would have more than {} elements", most_ / 2), {},
                                "ask for larger sizes or raise size.most_elements");
            const std::size_t count = mesh_.points().size();
            const int v = mesh_.insert(x, t);
            if (mesh_.points().size() > count) open_.push_back({v, background, hint});
        }
    }

    /// Of the four directions the one nearest to `wanted`.
    static double nearest_turn(double angle, double wanted) {
        const double quarter = std::numbers::pi / 2;
        return angle + std::round((wanted - angle) / quarter) * quarter;
    }

    /// The triangle inside the face that x is seen through from a vertex; -1: x lies outside from there.
    [[nodiscard]] int triangle_towards(int v, const Vec2& x) const {
        int found = -1;
        mesh_.around(v, [&](int t, int k) {
            const auto& tri = mesh_.triangle(t);
            if (found >= 0 || !tri.inside()) return;
            const Vec2 &a = mesh_.point(tri.v[static_cast<std::size_t>((k + 1) % 3)]),
                       &b = mesh_.point(tri.v[static_cast<std::size_t>((k + 2) % 3)]), &p = mesh_.point(v);
            if (cross(a - p, x - p) >= 0 && cross(x - p, b - p) >= 0) found = t;
        });
        return found;
    }

    [[nodiscard]] bool has_room(const Vec2& x, int t, double h) const {
        const auto clear = [&](const Triangulation::Triangle& tri) {
            for (std::size_t i = 0; i < 3; ++i) {
                if (distance(mesh_.point(tri.v[i]), x) < least_grid_distance * h) return false;
                if (tri.segment[i] < 0) continue;
                const Vec2 &a = mesh_.point(tri.v[(i + 1) % 3]), &b = mesh_.point(tri.v[(i + 2) % 3]);
                if (cross(b - a, x - a) < least_grid_height * std::min(h, distance(a, b)) * distance(a, b))
                    return false;
            }
            return true;
        };
        const auto& home = mesh_.triangle(t);
        if (!clear(home)) return false;
        for (std::size_t i = 0; i < 3; ++i)
            if (home.segment[i] < 0 && !clear(mesh_.triangle(home.n[i]))) return false;
        return true;
    }

    Triangulation& mesh_;
    const SizeField& sizes_;
    const CrossField& cross_;
    std::size_t most_;
    std::deque<Start> open_;
};

/// Quadrilaterals that are too bad as two triangles, along the diagonal that makes the better worst one.
void split_bad(CornerMesh& mesh, double least) {
    const std::size_t count = mesh.elements.size();
    for (std::size_t e = 0; e < count; ++e) {
        const Element quad = mesh.elements[e];
        if (quad.corners() != 4 || scaled_jacobian_of(mesh, quad) >= least) continue;
        std::array<Element, 4> t{};  // two for each diagonal
        for (std::size_t d = 0; d < 2; ++d)
            for (std::size_t k = 0; k < 2; ++k) {
                const std::size_t i = d + 2 * k;
                auto& half = t[2 * d + k];
                half.v = {quad.v[i], quad.v[(i + 1) % 4], quad.v[(i + 2) % 4], -1};
                half.segment = {quad.segment[i], quad.segment[(i + 1) % 4], -1, -1};
                half.face = quad.face;
            }
        const auto worst = [&](std::size_t d) {
            return std::min(scaled_jacobian_of(mesh, t[2 * d]), scaled_jacobian_of(mesh, t[2 * d + 1]));
        };
        const std::size_t d = worst(0) >= worst(1) ? 0 : 1;
        mesh.elements[e] = t[2 * d];
        mesh.elements.push_back(t[2 * d + 1]);
    }
}

/// A point between two quadrilaterals only: they are one, unless that is no quadrilateral.
void remove_doublets(CornerMesh& mesh, std::size_t first_movable) {
    const ElementsRound round(mesh);
    std::vector<char> gone(mesh.elements.size(), 0);
    for (std::size_t p = first_movable; p < mesh.points.size(); ++p) {
        const auto around = round.of(p);
        if (around.size() != 2) continue;
        const auto a = static_cast<std::size_t>(around[0]), b = static_cast<std::size_t>(around[1]);
        if (gone[a] || gone[b] || mesh.elements[a].corners() != 4 || mesh.elements[b].corners() != 4) continue;
        const auto corner = [&](const Element& e) {
            std::size_t i = 0;
            while (static_cast<std::size_t>(e.v[i]) != p) ++i;
            return i;
        };
        const Element &x = mesh.elements[a], &y = mesh.elements[b];
        const std::size_t i = corner(x), j = corner(y);
        // x runs p, q, far, r and y runs p, r, other, q.
        Element joined;
        joined.face = x.face;
        joined.v = {x.v[(i + 1) % 4], x.v[(i + 2) % 4], x.v[(i + 3) % 4], y.v[(j + 2) % 4]};
        joined.segment = {x.segment[(i + 1) % 4], x.segment[(i + 2) % 4], y.segment[(j + 1) % 4],
                          y.segment[(j + 2) % 4]};
        if (x.v[(i + 1) % 4] != y.v[(j + 3) % 4] || x.v[(i + 3) % 4] != y.v[(j + 1) % 4]) continue;
        if (!(scaled_jacobian_of(mesh, joined) > 0)) continue;
        mesh.elements[a] = joined;
        gone[b] = 1;
    }
    std::size_t kept = 0;
    for (std::size_t e = 0; e < gone.size(); ++e)
        if (!gone[e]) mesh.elements[kept++] = mesh.elements[e];
    mesh.elements.resize(kept);
}

}  // namespace

CornerMesh mostly_quadrilaterals(const Division& division, const SizeField& sizes, std::size_t most_elements,
                                 Coarse& coarse) {
    Outline background = triangulate(division, coarse);
    if (!coarse.segments.empty()) return {};
    Outline outline = background;
    const SizeField coarser = sizes.scaled(background_coarser);
    fill(background.mesh, coarser, 3 * most_elements + 1000);
    const CrossField cross(std::move(background));
    GridFront(outline.mesh, sizes, cross, 3 * most_elements + 1000).run(outline.vertex);
    CornerMesh mesh = corner_mesh(outline);
    pair_triangles(mesh, worst_pair);
    const std::size_t first_movable = division.points.size();
    remove_doublets(mesh, first_movable);
    relax(mesh, first_movable, grid_relax_rounds);
    split_bad(mesh, least_quadrilateral);
    return mesh;
}

CornerMesh only_quadrilaterals(const Division& division, const SizeField& sizes, std::size_t most_elements,
                               Coarse& coarse) {
    // Segments 2k and 2k + 1 become one; which point stands between them is kept for the way back.
    Division pairs;
    std::vector<int> local(division.points.size(), -1);
    std::vector<int> whole;  // of each point of `pairs`
    const auto use = [&](int p) {
        auto& l = local[static_cast<std::size_t>(p)];
        if (l < 0) {
            l = static_cast<int>(whole.size());
            whole.push_back(p);
            pairs.points.push_back(division.points[static_cast<std::size_t>(p)]);
        }
        return l;
    };
    std::vector<char> between(division.points.size(), 0);
    for (std::size_t k = 0; k < division.segments.size(); k += 2) {
        if (k + 1 == division.segments.size() || division.segments[k].to != division.segments[k + 1].from) {
            Place place;
            place.position = division.points[static_cast<std::size_t>(division.segments[k].from)];
            throw InputError("layers that end free in a region of quadrilaterals alone need an even number of rows",
                             place, "let them go on to a boundary, or use an even number");
        }
        between[static_cast<std::size_t>(division.segments[k].to)] = 1;
    }
    for (std::size_t p = 0; p < division.points.size(); ++p)
        if (!between[p]) use(static_cast<int>(p));
    for (std::size_t k = 0; k + 1 < division.segments.size(); k += 2) {
        Segment s = division.segments[k];
        s.from = use(division.segments[k].from);
        s.to = use(division.segments[k + 1].to);
        s.t_to = division.segments[k + 1].t_to;
        pairs.segments.push_back(s);
    }
    const CornerMesh large =
        mostly_quadrilaterals(pairs, sizes.scaled(2).no_steeper(steepest_large), most_elements, coarse);
    if (!coarse.segments.empty()) {
        for (auto& s : coarse.segments) s *= 2;
        return {};
    }
    CornerMesh mesh;
    mesh.points = division.points;
    std::vector<std::int32_t> point(large.points.size());
    for (std::size_t p = 0; p < large.points.size(); ++p) {
        if (p < whole.size()) {
            point[p] = whole[p];
            continue;
        }
        point[p] = static_cast<std::int32_t>(mesh.points.size());
        mesh.points.push_back(large.points[p]);
    }
    const EdgeNumbers edges(large);
    std::vector<std::int32_t> middle(edges.count(), -1);
    for (std::size_t e = 0; e < large.elements.size(); ++e) {
        const auto& element = large.elements[e];
        const std::size_t n = element.corners();
        Vec2 centre;
        std::array<std::int32_t, 4> m{};
        for (std::size_t i = 0; i < n; ++i) {
            const Vec2 &a = large.points[static_cast<std::size_t>(element.v[i])],
                       &b = large.points[static_cast<std::size_t>(element.v[(i + 1) % n])];
            centre += a / static_cast<double>(n);
            auto& found = middle[edges.of(e, i)];
            if (found < 0) {
                if (element.segment[i] >= 0) {
                    found = division.segments[2 * static_cast<std::size_t>(element.segment[i])].to;
                } else {
                    found = static_cast<std::int32_t>(mesh.points.size());
                    mesh.points.push_back((a + b) * 0.5);
                }
            }
            m[i] = found;
        }
        const auto c = static_cast<std::int32_t>(mesh.points.size());
        mesh.points.push_back(centre);
        for (std::size_t i = 0; i < n; ++i) {
            const std::size_t before = (i + n - 1) % n;
            // Of the two halves of a segment, the one at this corner.
            const auto half = [&](std::size_t side, std::int32_t corner) {
                const int pair = element.segment[side];
                if (pair < 0) return -1;
                const auto first = 2 * static_cast<std::size_t>(pair);
                return static_cast<int>(division.segments[first].from == corner ? first : first + 1);
            };
            const std::int32_t v = point[static_cast<std::size_t>(element.v[i])];
            Element quad;
            quad.face = element.face;
            quad.v = {v, m[i], c, m[before]};
            quad.segment = {half(i, v), -1, -1, half(before, v)};
            mesh.elements.push_back(quad);
        }
    }
    relax(mesh, division.points.size(), grid_relax_rounds);
    return mesh;
}

}  // namespace dotsift
