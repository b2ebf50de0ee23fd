#include "part/combine/cleanup.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "part/classify.hpp"
#include "part/combine/combine.hpp"
#include "part/measure.hpp"
#include "part/shapes/placement.hpp"

namespace dotsift {

namespace {

constexpr double degrees = 180 / std::numbers::pi;
constexpr double tangent_angle = 0.5;     // degrees: a round goes on smoothly into its neighbours
constexpr double most_round_sweep = 175;  // degrees: the sides of a rounder end do not meet
constexpr double sharpest_joint = 45;     // degrees: edges that turn more at their joint are not meshed as one

class Cleaner {
  public:
    Cleaner(const CleanupSpec& spec, Part& part) : spec_(spec), part_(part) {}

    std::vector<CleanupItem> run() {
        if (spec_.fill_holes_below) fill_holes();
        if (spec_.remove_rounds_below) remove_rounds();
        if (spec_.merge_points) merge_points();
        for (const auto& pattern : spec_.one_edge)
            if (part_.edges_named({pattern}).empty())
                throw InputError(fmt::format("one_edge = \"{}\" fits no boundary", pattern), {},
                                 fmt::format("named boundaries are {}", quoted_list(part_.boundary_names)));
        if (!spec_.one_edge.empty()) join(false);
        if (spec_.one_edge_below) join(true);
        part_.update_box();
        return std::move(items_);
    }

  private:
    PartEdge& edge(int e) { return part_.edges[static_cast<std::size_t>(e)]; }

    /// Drops edges that are marked and vertices that nothing uses.
    void compact(const std::vector<char>& gone) {
        std::vector<int> new_edge(part_.edges.size(), -1), new_vertex(part_.vertices.size(), -1);
        std::vector<PartEdge> edges;
        std::vector<Vec2> vertices;
        const auto kept = [&](int v) {
            int& n = new_vertex[static_cast<std::size_t>(v)];
            if (n < 0) {
                n = static_cast<int>(vertices.size());
                vertices.push_back(part_.vertex(v));
            }
            return n;
        };
        for (std::size_t e = 0; e < part_.edges.size(); ++e) {
            if (gone[e]) continue;
            new_edge[e] = static_cast<int>(edges.size());
            edges.push_back(part_.edges[e]);
            edges.back().start = kept(part_.edges[e].start);
            edges.back().end = kept(part_.edges[e].end);
        }
        for (auto& f : part_.faces) {
            for (auto& loop : f.loops) {
                std::erase_if(loop, [&](const EdgeUse& u) { return gone[static_cast<std::size_t>(u.edge)] != 0; });
                for (auto& u : loop) u.edge = new_edge[static_cast<std::size_t>(u.edge)];
            }
            std::erase_if(f.loops, [](const auto& loop) { return loop.empty(); });
            for (auto& p : f.points) p = kept(p);
        }
        for (auto& p : part_.points) p.vertex = kept(p.vertex);
        part_.edges = std::move(edges);
        part_.vertices = std::move(vertices);
    }

    void fill_holes() {
        std::vector<char> gone(part_.edges.size(), 0);
        std::size_t filled = 0;
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            const auto loops = part_.faces[f].loops;
            for (std::size_t l = 1; l < loops.size(); ++l) {
                const auto& loop = loops[l];
                if (std::any_of(loop.begin(), loop.end(), [&](const EdgeUse& u) { return edge(u.edge).interior(); }))
                    continue;  // not a hole, or one that something else borders
                std::vector<Vec2> around;
                RayCaster rays;
                for (const auto& u : loop) {
                    rays.add(edge(u.edge).curve, u.edge);
                    for (int k = 0; k < 32; ++k) around.push_back(edge(u.edge).curve.point(k / 32.0));
                }
                double diameter = 0;
                for (const auto& p : around)
                    for (const auto& q : around) diameter = std::max(diameter, distance(p, q));
                if (loop.size() == 1 && edge(loop[0].edge).curve.circular())
                    diameter = 2 * norm(edge(loop[0].edge).curve.axis_a());
                if (!(diameter < *spec_.fill_holes_below)) continue;
                const Vec2 centre = measure_loop(part_, loop).centroid;
                const std::string name = edge(loop[0].edge).names.empty()
                                             ? fmt::format("at ({}, {})", sensible(centre[0]), sensible(centre[1]))
                                             : part_.name_of_edge(loop[0].edge);
                const bool island = std::any_of(part_.edges.begin(), part_.edges.end(), [&](const PartEdge& e) {
                    const bool own =
                        std::any_of(loop.begin(), loop.end(), [&](const EdgeUse& u) { return &edge(u.edge) == &e; });
                    return !own && rays.inside(e.curve.point(0.37));
                });
                if (island) {
                    items_.push_back({fmt::format("hole {} kept: another piece lies in it", name), centre, false});
                    continue;
                }
                for (const auto& u : loop) gone[static_cast<std::size_t>(u.edge)] = 1;
                ++filled;
                std::string what = fmt::format("hole {} of diameter {} filled", name, sensible(diameter));
                if (!spec_.keep_centres.empty()) {
                    const std::string point = numbered(spec_.keep_centres, filled);
                    if (!part_.points_named({point}).empty())
                        throw InputError(
                            fmt::format("keep_centres would give the name \"{}\" to more than one point", point), {},
                            "put # into the name, it counts the holes");
                    part_.vertices.push_back(centre);
                    part_.faces[f].points.push_back(static_cast<int>(part_.vertices.size()) - 1);
                    part_.points.push_back({point, static_cast<int>(part_.vertices.size()) - 1});
                    what += fmt::format(", point \"{}\" left at its centre", point);
                }
                items_.push_back({what, centre});
            }
        }
        compact(gone);
    }

    /// The only other edge at a vertex, run so that it enters it; nothing if there is none or several.
    std::optional<EdgeUse> other_at(int vertex, int than) const {
        std::optional<EdgeUse> found;
        for (std::size_t e = 0; e < part_.edges.size(); ++e) {
            if (static_cast<int>(e) == than) continue;
            for (const bool forward : {true, false}) {
                if ((forward ? part_.edges[e].end : part_.edges[e].start) != vertex) continue;
                if (found) return std::nullopt;
                found = EdgeUse{static_cast<int>(e), forward};
            }
        }
        return found;
    }

    Curve run(const EdgeUse& u) { return u.forward ? edge(u.edge).curve : edge(u.edge).curve.reversed(); }

    /// Angle between the end of one curve and the start of the next, degrees.
    static double kink(const Curve& in, const Curve& out) {
        const Vec2 d = in.derivative(1), e = out.derivative(0);
        return std::fabs(std::atan2(cross(d, e), dot(d, e))) * degrees;
    }

    /// Points that the carriers of two lines or circles share.
    static std::vector<Vec2> crossings(const Curve& a, const Curve& b) {
        if (a.straight() && b.straight()) {
            const Vec2 d = a.end() - a.start(), e = b.end() - b.start();
            const double det = cross(d, e);
            if (std::fabs(det) <= 1e-12 * norm(d) * norm(e)) return {};
            return {a.start() + d * (cross(b.start() - a.start(), e) / det)};
        }
        if (!a.straight() && b.straight()) return crossings(b, a);
        const Vec2& c = b.centre();
        const double r = norm(b.axis_a());
        if (a.straight()) {
            const Vec2 d = (a.end() - a.start()) / distance(a.start(), a.end());
            const Vec2 foot = a.start() + d * dot(c - a.start(), d);
            const double h2 = r * r - dot(foot - c, foot - c);
            if (h2 < 0) return {};
            return {foot + d * std::sqrt(h2), foot - d * std::sqrt(h2)};
        }
        const Vec2 d = c - a.centre();
        const double l = norm(d), ra = norm(a.axis_a());
        if (!(l > 0)) return {};
        const double x = (l * l + ra * ra - r * r) / (2 * l), h2 = ra * ra - x * x;
        if (h2 < 0) return {};
        const Vec2 u = d / l, foot = a.centre() + u * x;
        return {foot + turned_left(u) * std::sqrt(h2), foot - turned_left(u) * std::sqrt(h2)};
    }

    /// A line or circular arc run on to a point on its carrier.
    static Curve extended(const Curve& c, const Vec2& to) {
        Curve out = c;
        if (!c.straight()) {
            const Vec2 d = to - c.centre();
            const double angle = std::atan2(dot(d, c.axis_b()), dot(d, c.axis_a()));
            const double turns = std::round((c.to_angle() - angle) / (2 * std::numbers::pi));
            out = Curve::arc(c.centre(), c.axis_a(), c.axis_b(), c.from_angle(), angle + turns * 2 * std::numbers::pi);
        }
        out.set_ends(c.start(), to);
        return out;
    }

    void remove_rounds() {
        std::vector<char> gone(part_.edges.size(), 0);
        for (std::size_t k = 0; k < part_.edges.size(); ++k) {
            const int e = static_cast<int>(k);
            const Curve arc = edge(e).curve;
            if (!arc.circular() || arc.closed() || !(norm(arc.axis_a()) < *spec_.remove_rounds_below)) continue;
            const auto before = other_at(edge(e).start, e), into_end = other_at(edge(e).end, e);
            if (!before || !into_end || before->edge == into_end->edge) continue;
            const Curve in = run(*before), out = run(*into_end).reversed();
            if (kink(in, arc) > tangent_angle || kink(arc, out) > tangent_angle) continue;  // no round
            const std::string told =
                fmt::format("round {} of radius {}", part_.name_of_edge(e), sensible(norm(arc.axis_a())));
            const auto keep = [&](const std::string& why) {
                items_.push_back({fmt::format("{} kept: {}", told, why), arc.point(0.5), false});
            };
            const auto simple = [](const Curve& c) { return c.straight() || c.circular(); };
            if (!simple(in) || !simple(out)) {
                keep("its neighbours are neither lines nor circles");
                continue;
            }
            std::vector<Vec2> meet;
            if (arc.turning() * degrees < most_round_sweep) meet = crossings(in, out);
            const double reach = 4 * std::max(norm(arc.axis_a()), distance(arc.start(), arc.end()));
            std::erase_if(meet, [&](const Vec2& p) { return distance(p, arc.point(0.5)) > reach; });
            if (meet.empty()) {
                keep("its sides do not meet");
                continue;
            }
            const Vec2 corner = *std::min_element(meet.begin(), meet.end(), [&](const Vec2& p, const Vec2& q) {
                return distance(p, arc.point(0.5)) < distance(q, arc.point(0.5));
            });
            const int vertex = edge(e).start, other = edge(e).end;
            const Curve longer_in = extended(in, corner), longer_out = extended(out.reversed(), corner);
            edge(before->edge).curve = before->forward ? longer_in : longer_in.reversed();
            edge(into_end->edge).curve = into_end->forward ? longer_out : longer_out.reversed();
            (into_end->forward ? edge(into_end->edge).end : edge(into_end->edge).start) = vertex;
            part_.vertices[static_cast<std::size_t>(vertex)] = corner;
            for (auto& p : part_.points)
                if (p.vertex == other) p.vertex = vertex;
            edge(e).start = edge(e).end = -1;
            gone[k] = 1;
            items_.push_back({told + " made a sharp corner", corner});
        }
        compact(gone);
    }

    void merge_points() {
        const double reach = *spec_.merge_points;
        std::vector<int> group(part_.vertices.size()), order(part_.vertices.size());
        std::iota(group.begin(), group.end(), 0);
        std::iota(order.begin(), order.end(), 0);
        std::sort(order.begin(), order.end(),
                  [&](int a, int b) { return std::pair(part_.vertex(a)[0], a) < std::pair(part_.vertex(b)[0], b); });
        const auto root = [&](int v) {
            while (group[static_cast<std::size_t>(v)] != v) v = group[static_cast<std::size_t>(v)];
            return v;
        };
        for (std::size_t i = 0; i < order.size(); ++i)
            for (std::size_t j = i + 1; j < order.size(); ++j) {
                const Vec2 &p = part_.vertex(order[i]), &q = part_.vertex(order[j]);
                if (q[0] - p[0] > reach) break;
                if (distance(p, q) > reach) continue;
                const int a = root(order[i]), b = root(order[j]);
                if (a == b) continue;
                items_.push_back({fmt::format("points merged that were {} apart", sensible(distance(p, q))), p});
                group[static_cast<std::size_t>(std::max(a, b))] = std::min(a, b);
            }
        bool any = false;
        std::vector<char> gone(part_.edges.size(), 0);
        for (std::size_t e = 0; e < part_.edges.size(); ++e) {
            auto& x = part_.edges[e];
            const int a = root(x.start), b = root(x.end);
            if (a == x.start && b == x.end) continue;
            any = true;
            const Vec2 &from = part_.vertex(a), &to = part_.vertex(b);
            if (a == b && x.start != x.end && x.curve.length() <= 4 * reach) {
                gone[e] = 1;
            } else if (a != b && x.start != x.end) {  // turned and scaled so that it ends at the new points
                const Vec2 u = x.curve.end() - x.curve.start(), v = to - from;
                const double l2 = dot(u, u);
                Affine map;
                map.column_x = {{dot(u, v) / l2, cross(u, v) / l2}};
                map.column_y = turned_left(map.column_x);
                map.shift = from - map.turned(x.curve.start());
                x.curve = x.curve.transformed(map);
            }
            if (x.start == x.end) x.curve = x.curve.transformed(Affine::move(from - x.curve.start()));
            x.curve.set_ends(from, to);
            x.start = a;
            x.end = b;
        }
        for (auto& p : part_.points) p.vertex = root(p.vertex);
        for (auto& f : part_.faces)
            for (auto& p : f.points) p = root(p);
        if (!any) return;
        for (const auto& f : part_.faces)
            if (std::all_of(f.loops.front().begin(), f.loops.front().end(),
                            [&](const EdgeUse& u) { return gone[static_cast<std::size_t>(u.edge)] != 0; }))
                throw InputError(
                    fmt::format("nothing would be left of a piece of \"{}\" if points nearer than {:g} were "
                                "merged",
                                part_.regions[static_cast<std::size_t>(f.region)], reach),
                    {}, "use a smaller distance");
        compact(gone);
        Part merged = combine(steps_of(part_), part_.regions).part;
        for (const auto& name : part_.boundary_names) merged.boundary_name(name);
        part_ = std::move(merged);
    }

    /// Makes chains of edges one: all of the wanted names, or only where one of two is short.
    void join(bool short_only) {
        std::vector<char> gone(part_.edges.size(), 0);
        std::vector<int> joined(part_.edges.size(), 1);  // how many edges each has become
        for (std::size_t v = 0; v < part_.vertices.size(); ++v) {
            const int vertex = static_cast<int>(v);
            std::vector<EdgeUse> at;
            for (std::size_t e = 0; e < part_.edges.size(); ++e) {
                if (gone[e]) continue;
                if (part_.edges[e].end == vertex) at.push_back({static_cast<int>(e), true});
                if (part_.edges[e].start == vertex) at.push_back({static_cast<int>(e), false});
            }
            if (at.size() != 2 || at[0].edge == at[1].edge) continue;
            if (std::any_of(part_.points.begin(), part_.points.end(),
                            [&](const PartPoint& p) { return p.vertex == vertex; }))
                continue;
            if (!at[0].forward) std::swap(at[0], at[1]);
            const EdgeUse in = at[0], out{at[1].edge, !at[1].forward};
            if (!in.forward) continue;
            auto &a = edge(in.edge), &b = edge(out.edge);
            const bool same_sides =
                out.forward ? a.left == b.left && a.right == b.right : a.left == b.right && a.right == b.left;
            if (!same_sides || kink(run(in), run(out)) > sharpest_joint) continue;
            const bool short_one = std::min(a.curve.length(), b.curve.length()) < spec_.one_edge_below.value_or(0);
            const auto names = [](std::vector<int> list) {
                std::sort(list.begin(), list.end());
                return list;
            };
            const bool same_names = names(a.names) == names(b.names);
            if (short_only) {
                if (!short_one || !(same_names || a.names.empty() || b.names.empty())) continue;
                if (!same_names) {  // a short piece without a name takes its neighbour's
                    const auto& bare = a.names.empty() ? a : b;
                    if (!(bare.curve.length() < *spec_.one_edge_below)) continue;
                    (a.names.empty() ? a : b).names = a.names.empty() ? b.names : a.names;
                }
            } else if (!same_names || std::none_of(a.names.begin(), a.names.end(), [&](int n) {
                           const auto& name = part_.boundary_names[static_cast<std::size_t>(n)];
                           return fits_any(name, spec_.one_edge);
                       })) {
                continue;
            }
            std::vector<Curve> links;
            for (const Curve& c : {run(in), run(out)}) {
                if (c.kind() != Curve::Kind::chain) {
                    links.push_back(c);
                } else if (c.to_angle() > c.from_angle()) {
                    links.insert(links.end(), c.links().begin(), c.links().end());
                } else {
                    for (auto l = c.links().rbegin(); l != c.links().rend(); ++l) links.push_back(l->reversed());
                }
            }
            const int end = out.forward ? b.end : b.start;
            a.curve = Curve::chain(std::move(links));
            a.end = end;
            joined[static_cast<std::size_t>(in.edge)] += joined[static_cast<std::size_t>(out.edge)];
            gone[static_cast<std::size_t>(out.edge)] = 1;
        }
        for (std::size_t e = 0; e < part_.edges.size(); ++e)
            if (!gone[e] && joined[e] > 1)
                items_.push_back(
                    {fmt::format("{} edges of {} meshed as one", joined[e], part_.name_of_edge(static_cast<int>(e))),
                     part_.edges[e].curve.point(0.5)});
        compact(gone);
    }

    const CleanupSpec& spec_;
    Part& part_;
    std::vector<CleanupItem> items_;
};

}  // namespace

std::vector<CleanupItem> clean_up(const CleanupSpec& spec, Part& part) {
    return Cleaner(spec, part).run();
}

}  // namespace dotsift
