#include "mesh/generate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <unordered_map>

#include "base/errors.hpp"
#include "mesh/division.hpp"
#include "mesh/fill.hpp"
#include "mesh/order.hpp"
#include "mesh/triangulation.hpp"
#include "part/corners.hpp"

namespace dotsift {

namespace {

constexpr int most_rounds = 16;
constexpr double least_jacobian = 0.1;    // of the mean, over each element
constexpr double least_angle = 25;        // degrees; what is below gets circumcentres where they fit
constexpr double thin_angle = 20;         // degrees; the boundary beside thinner elements is refined ...
constexpr int most_shape_tries = 4;       // ... this often, then they are accepted
constexpr double sharp_corner = 60;       // degrees; narrower corners of the part are not refined without end
constexpr double size_below_limit = 1.5;  // an estimate this far above the limit is refused before meshing

/// Segments that turned out too coarse, and why.
struct Coarse {
    std::vector<std::size_t> segments;
    std::string reason;
};

struct Outline {
    Division division;
    Triangulation mesh;
    std::vector<int> vertex;  ///< of each division point
};

/// Triangulates the boundary points and segments. Segments that cross others are added to `coarse`.
Outline triangulate_outline(const Part& part, const SizeField& sizes, Coarse& coarse) {
    Outline o{divide_edges(part, sizes), Triangulation(part.box), {}};
    o.vertex.assign(o.division.points.size(), -1);
    int hint = 0;
    for (const int k : hilbert_order(o.division.points)) {
        const auto i = static_cast<std::size_t>(k);
        o.vertex[i] = o.mesh.insert(o.division.points[i], o.mesh.locate(o.division.points[i], hint));
        hint = o.mesh.triangle_of(o.vertex[i]);
    }
    std::unordered_map<int, std::vector<std::size_t>> users;  // of a vertex
    for (std::size_t s = 0; s < o.division.segments.size(); ++s) {
        users[o.vertex[static_cast<std::size_t>(o.division.segments[s].from)]].push_back(s);
        users[o.vertex[static_cast<std::size_t>(o.division.segments[s].to)]].push_back(s);
    }
    for (std::size_t s = 0; s < o.division.segments.size(); ++s) {
        const auto& segment = o.division.segments[s];
        Triangulation::Obstacle obstacle;
        const int a = o.vertex[static_cast<std::size_t>(segment.from)],
                  b = o.vertex[static_cast<std::size_t>(segment.to)];
        if (a != b && o.mesh.insert_segment(a, b, static_cast<int>(s), obstacle)) continue;
        coarse.segments.push_back(s);
        coarse.reason = "two boundaries cross or touch here";
        if (obstacle.segment >= 0) coarse.segments.push_back(static_cast<std::size_t>(obstacle.segment));
        if (obstacle.vertex >= 0)
            coarse.segments.insert(coarse.segments.end(), users[obstacle.vertex].begin(), users[obstacle.vertex].end());
    }
    if (!coarse.segments.empty()) return o;
    const auto contradicted = o.mesh.mark_faces([&](int s) {
        const auto& segment = o.division.segments[static_cast<std::size_t>(s)];
        const auto& edge = part.edge(segment.edge);
        return Triangulation::SegmentSides{o.vertex[static_cast<std::size_t>(segment.from)], edge.left, edge.right};
    });
    // A chord that leaves another boundary on its wrong side.
    for (const int s : contradicted) coarse.segments.push_back(static_cast<std::size_t>(s));
    if (!contradicted.empty()) coarse.reason = "two boundaries cross or touch here";
    return o;
}

double degrees_between(const Vec2& a, const Vec2& b) {
    return std::fabs(std::atan2(cross(a, b), dot(a, b))) * 180 / std::numbers::pi;
}

/// Segments with another boundary's point inside the circle over them as diameter: the gap is narrower than they are
/// long.
Coarse narrow_places(const Part& part, const Outline& o) {
    std::vector<std::vector<int>> edges_of(o.mesh.points().size());
    for (const auto& s : o.division.segments)
        for (const int p : {s.from, s.to})
            edges_of[static_cast<std::size_t>(o.vertex[static_cast<std::size_t>(p)])].push_back(s.edge);
    const auto meet_sharply = [&](int e, int f) {
        const auto &a = part.edge(e), &b = part.edge(f);
        for (const int v : {a.start, a.end}) {
            if (v != b.start && v != b.end) continue;
            const Vec2 u = v == a.start ? a.curve.derivative(0) : -a.curve.derivative(1),
                       w = v == b.start ? b.curve.derivative(0) : -b.curve.derivative(1);
            if (e != f && degrees_between(u, w) < sharp_corner) return true;
        }
        return false;
    };
    Coarse coarse;
    for (const auto& t : o.mesh.triangles()) {
        if (!t.inside()) continue;
        for (std::size_t i = 0; i < 3; ++i) {
            if (t.segment[i] < 0) continue;
            const Vec2 &p = o.mesh.point(t.v[i]), &a = o.mesh.point(t.v[(i + 1) % 3]),
                       &b = o.mesh.point(t.v[(i + 2) % 3]);
            if (!(dot(a - p, b - p) < 0)) continue;
            const auto& segment = o.division.segments[static_cast<std::size_t>(t.segment[i])];
            const auto& others = edges_of[static_cast<std::size_t>(t.v[i])];
            if (std::any_of(others.begin(), others.end(), [&](int e) { return meet_sharply(e, segment.edge); }))
                continue;
            coarse.segments.push_back(static_cast<std::size_t>(t.segment[i]));
        }
    }
    coarse.reason = "the part is narrower here than the elements can follow";
    return coarse;
}

/// The point of a curve between two parameters that is equally far from both ends.
Vec2 middle_of(const Curve& curve, double ta, double tb) {
    if (curve.straight()) return (curve.point(ta) + curve.point(tb)) * 0.5;
    const Vec2 a = curve.point(ta), b = curve.point(tb);
    double low = ta, high = tb;
    for (int k = 0; k < 60; ++k) {
        const double t = 0.5 * (low + high);
        const Vec2 p = curve.point(t);
        (distance(p, a) < distance(p, b) ? low : high) = t;
    }
    return curve.point(0.5 * (low + high));
}

/// The finished triangulation as six-node elements, numbered along a Hilbert curve.
Mesh six_node_mesh(const Part& part, const Outline& o) {
    struct Side {
        int a, b;
        bool operator==(const Side&) const = default;
    };
    struct Hash {
        std::size_t operator()(const Side& s) const {
            return static_cast<std::size_t>(s.a) * 0x9E3779B97F4A7C15ULL ^ (static_cast<std::size_t>(s.b) << 17);
        }
    };
    std::vector<Vec2> nodes;
    std::vector<int> node_of(o.mesh.points().size(), -1);
    std::unordered_map<Side, int, Hash> middle;
    std::vector<std::array<int, 6>> elements;
    std::vector<BoundarySide> boundary;
    std::vector<std::int32_t> regions;
    std::vector<Vec2> centres;
    for (const auto& t : o.mesh.triangles()) {
        if (!t.inside()) continue;
        std::array<int, 6> e{};
        for (std::size_t i = 0; i < 3; ++i) {
            int& n = node_of[static_cast<std::size_t>(t.v[i])];
            if (n < 0) {
                n = static_cast<int>(nodes.size());
                nodes.push_back(o.mesh.point(t.v[i]));
            }
            e[i] = n;
        }
        for (std::size_t i = 0; i < 3; ++i) {
            const int a = t.v[i], b = t.v[(i + 1) % 3], segment = t.segment[(i + 2) % 3];
            const auto [found, fresh] =
                middle.try_emplace({std::min(a, b), std::max(a, b)}, static_cast<int>(nodes.size()));
            if (fresh) {
                if (segment >= 0) {
                    const auto& s = o.division.segments[static_cast<std::size_t>(segment)];
                    nodes.push_back(middle_of(part.edges[static_cast<std::size_t>(s.edge)].curve, s.t_from, s.t_to));
                } else {
                    nodes.push_back((o.mesh.point(a) + o.mesh.point(b)) * 0.5);
                }
            }
            e[i + 3] = found->second;
            // On an edge with material on both sides, the element on its left has it.
            const bool along =
                segment >= 0 &&
                a == o.vertex[static_cast<std::size_t>(o.division.segments[static_cast<std::size_t>(segment)].from)];
            if (along)
                boundary.push_back({{e[i], e[(i + 1) % 3], e[i + 3]},
                                    static_cast<int>(elements.size()),
                                    static_cast<int>(i),
                                    o.division.segments[static_cast<std::size_t>(segment)].edge});
        }
        centres.push_back((nodes[static_cast<std::size_t>(e[0])] + nodes[static_cast<std::size_t>(e[1])] +
                           nodes[static_cast<std::size_t>(e[2])]) /
                          3);
        elements.push_back(e);
        regions.push_back(part.faces[static_cast<std::size_t>(t.face)].region);
    }
    for (auto& b : boundary)  // the second corner's node may have been made after the side was noted
        for (std::size_t k = 0; k < 3; ++k) {
            const auto& e = elements[static_cast<std::size_t>(b.element)];
            b.nodes = {e[static_cast<std::size_t>(b.side)], e[static_cast<std::size_t>((b.side + 1) % 3)],
                       e[static_cast<std::size_t>(b.side + 3)]};
        }

    Mesh mesh;
    const auto node_order = hilbert_order(nodes), element_order = hilbert_order(centres);
    std::vector<int> new_node(nodes.size()), new_element(elements.size());
    mesh.nodes.resize(nodes.size());
    for (std::size_t k = 0; k < nodes.size(); ++k) {
        const auto old = static_cast<std::size_t>(node_order[k]);
        new_node[old] = static_cast<int>(k);
        mesh.nodes[k] = nodes[old];
    }
    for (std::size_t k = 0; k < elements.size(); ++k) {
        const auto old = static_cast<std::size_t>(element_order[k]);
        new_element[old] = static_cast<int>(k);
        mesh.kinds.push_back(ElementKind::triangle6);
        mesh.region.push_back(regions[old]);
        mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
        for (const int n : elements[old]) mesh.connectivity.push_back(new_node[static_cast<std::size_t>(n)]);
    }
    mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
    for (auto& b : boundary) {
        for (auto& n : b.nodes) n = new_node[static_cast<std::size_t>(n)];
        b.element = new_element[static_cast<std::size_t>(b.element)];
    }
    std::sort(boundary.begin(), boundary.end(), [](const BoundarySide& x, const BoundarySide& y) {
        return std::pair(x.element, x.side) < std::pair(y.element, y.side);
    });
    mesh.boundary = std::move(boundary);
    mesh.boundary_names = part.boundary_names;
    mesh.region_names = part.regions;
    for (const auto& p : part.points) {
        const int node = node_of[static_cast<std::size_t>(o.vertex[static_cast<std::size_t>(p.vertex)])];
        mesh.points.push_back({p.name, new_node[static_cast<std::size_t>(node)]});
    }
    number_slots(mesh);
    for (const auto& e : part.edges) mesh.names_of_edge.push_back(e.names);
    return mesh;
}

/// Boundary segments whose elements the curve bends too far.
Coarse bent_elements(const Mesh& mesh, const Division& division, const Part& part) {
    Coarse coarse;
    for (const auto& b : mesh.boundary) {
        const auto e = static_cast<std::size_t>(b.element);
        if (jacobian_bound(mesh.kinds[e], mesh.positions(e)) >= least_jacobian) continue;
        const Vec2 &from = mesh.nodes[static_cast<std::size_t>(b.nodes[0])],
                   &to = mesh.nodes[static_cast<std::size_t>(b.nodes[1])];
        if (part.edges[static_cast<std::size_t>(b.edge)].curve.straight()) continue;
        for (std::size_t s = 0; s < division.segments.size(); ++s)
            if (division.segments[s].edge == b.edge &&
                division.points[static_cast<std::size_t>(division.segments[s].from)] == from &&
                division.points[static_cast<std::size_t>(division.segments[s].to)] == to)
                coarse.segments.push_back(s);
    }
    coarse.reason = "the boundary bends too much within one element";
    return coarse;
}

/// Boundary segments that are the longest side of a thin element: the size field could not know of the wall or gap.
Coarse thin_elements(const Part& part, const Outline& o) {
    const auto angle = sharpest_angles(part);
    std::vector<char> sharp(o.mesh.points().size(), 0);
    for (std::size_t v = 0; v < part.vertices.size(); ++v)
        if (angle[v] < sharp_corner) sharp[static_cast<std::size_t>(o.vertex[v])] = 1;
    const double limit = std::sin(thin_angle * std::numbers::pi / 180);
    Coarse coarse;
    for (const auto& t : o.mesh.triangles()) {
        if (!t.inside() || sharp[static_cast<std::size_t>(t.v[0])] || sharp[static_cast<std::size_t>(t.v[1])] ||
            sharp[static_cast<std::size_t>(t.v[2])])
            continue;
        std::array<double, 3> side{};
        for (std::size_t i = 0; i < 3; ++i)
            side[i] = distance(o.mesh.point(t.v[(i + 1) % 3]), o.mesh.point(t.v[(i + 2) % 3]));
        const auto longest = static_cast<std::size_t>(std::max_element(side.begin(), side.end()) - side.begin());
        const double height =
            cross(o.mesh.point(t.v[1]) - o.mesh.point(t.v[0]), o.mesh.point(t.v[2]) - o.mesh.point(t.v[0])) /
            side[longest];
        const double next_longest = std::max(side[(longest + 1) % 3], side[(longest + 2) % 3]);
        if (height >= limit * next_longest) continue;  // sine of the smallest angle
        for (std::size_t i = 0; i < 3; ++i)
            if (t.segment[i] >= 0 && side[i] >= 0.9 * next_longest)
                coarse.segments.push_back(static_cast<std::size_t>(t.segment[i]));
    }
    coarse.reason = "the part is narrower here than the elements can follow";
    return coarse;
}

std::vector<SizeSource> halved(const Coarse& coarse, const Division& division) {
    std::vector<SizeSource> sources;
    for (const std::size_t s : coarse.segments) {
        const auto& segment = division.segments[s];
        SizeSource source;
        source.corners = {division.points[static_cast<std::size_t>(segment.from)],
                          division.points[static_cast<std::size_t>(segment.to)],
                          {}};
        source.corner_count = 2;
        source.size = distance(source.corners[0], source.corners[1]) / 2;
        if (source.size > 0) sources.push_back(source);
    }
    return sources;
}

[[noreturn]] void give_up(const Part& part, const Division& division, const Coarse& coarse) {
    const auto& segment = division.segments[coarse.segments.front()];
    const auto& edge = part.edges[static_cast<std::size_t>(segment.edge)];
    Place place;
    place.position = (division.points[static_cast<std::size_t>(segment.from)] +
                      division.points[static_cast<std::size_t>(segment.to)]) *
                     0.5;
    place.boundary =
        edge.names.empty() ? "(without a name)" : part.boundary_names[static_cast<std::size_t>(edge.names.front())];
    throw MeshError(
        fmt::format("no valid mesh after {} tries with ever smaller elements: {}", most_rounds, coarse.reason), place,
        "look at the part near that point: a sliver, a touching boundary or a very narrow gap must go");
}

double count_in(const std::array<Vec2, 3>& t, const SizeField& sizes, double slope, double enough, int depth) {
    const double area = cross(t[1] - t[0], t[2] - t[0]) / 2;
    const Vec2 centre = (t[0] + t[1] + t[2]) / 3;
    const double h = sizes.at(centre);
    const double reach = std::max({distance(centre, t[0]), distance(centre, t[1]), distance(centre, t[2])});
    const double here = area / (std::numbers::sqrt3 / 4 * h * h);
    if (depth == 0 || here < 0.25 || slope * reach < 0.25 * h) return here;
    const Vec2 m0 = (t[0] + t[1]) * 0.5, m1 = (t[1] + t[2]) * 0.5, m2 = (t[2] + t[0]) * 0.5;
    double sum = 0;
    for (const auto& part :
         {std::array{t[0], m0, m2}, std::array{m0, t[1], m1}, std::array{m2, m1, t[2]}, std::array{m0, m1, m2}}) {
        if (sum >= enough) break;
        sum += count_in(part, sizes, slope, enough - sum, depth - 1);
    }
    return sum;
}

double count_elements(const Triangulation& mesh, const SizeField& sizes, double enough) {
    double sum = 0;
    for (const auto& t : mesh.triangles()) {
        if (!t.inside()) continue;
        sum += count_in({mesh.point(t.v[0]), mesh.point(t.v[1]), mesh.point(t.v[2])}, sizes, sizes.slope(),
                        enough - sum, 20);
        if (sum >= enough) break;
    }
    return sum;
}

/// A coarse outline is enough to integrate over the part.
Outline coarse_outline(const Part& part) {
    const double size = part.box.diagonal() / 16;
    Coarse coarse;
    return triangulate_outline(part, SizeField(size, 1.0, size * 1e-3, {}), coarse);
}

}  // namespace

double estimate_elements(const Part& part, const SizeField& sizes, double enough) {
    return count_elements(coarse_outline(part).mesh, sizes, enough);
}

void check_element_limit(const Part& part, const SizeField& sizes, std::int64_t most_elements) {
    const double most = static_cast<double>(most_elements);
    const double expected = estimate_elements(part, sizes, 20 * most);
    if (expected > size_below_limit * most) {
        const bool many = expected >= 20 * most;
        throw InputError(fmt::format("the sizes ask for {}{:.3g} elements, more than the limit of {}",
                                     many ? "more than " : "about ", expected, most_elements),
                         {}, "ask for larger sizes or raise size.most_elements");
    }
}

Mesh generate(const Part& part, const SizeField& sizes, std::int64_t most_elements) {
    check_element_limit(part, sizes, most_elements);
    SizeField field = sizes;
    Coarse coarse;
    Division last;
    int shape_tries = 0;
    for (int round = 0; round < most_rounds; ++round) {
        coarse = {};
        Outline outline = triangulate_outline(part, field, coarse);
        if (coarse.segments.empty()) coarse = narrow_places(part, outline);
        if (coarse.segments.empty()) {
            const auto first_movable = static_cast<int>(outline.mesh.points().size());
            fill(outline.mesh, field, static_cast<std::size_t>(3 * most_elements) + 1000);
            smooth(outline.mesh, 4, first_movable);
            if (refine_poor(outline.mesh, least_angle) > 0) smooth(outline.mesh, 2, first_movable);
            if (shape_tries < most_shape_tries) coarse = thin_elements(part, outline);
            if (coarse.segments.empty()) {
                Mesh mesh = six_node_mesh(part, outline);
                coarse = bent_elements(mesh, outline.division, part);
                if (coarse.segments.empty()) return mesh;
            } else {
                ++shape_tries;
            }
        }
        field = field.with(halved(coarse, outline.division));
        last = std::move(outline.division);
    }
    give_up(part, last, coarse);
}

}  // namespace dotsift
