#include "part/selection.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/numbers.hpp"

namespace dotsift {

namespace {

constexpr int samples = 16;            // along an edge, where a rule must hold all along
constexpr double same_share = 1e-6;    // of the part's diagonal: on a line, in a box, equally near
constexpr double same_radius = 1e-6;   // relative
constexpr double smooth_angle = 1e-3;  // radians between tangents that count as one
constexpr std::size_t most_listed = 10;

std::string told_edge(const Part& part, int e) {
    const Curve& c = part.edge(e).curve;
    std::string text = part.name_of_edge(e);
    if (c.closed())
        text += c.circular()
                    ? fmt::format(" (circle of radius {:.5g} about {})", norm(c.axis_a()), told_point(c.centre()))
                    : fmt::format(" (closed, through {})", told_point(c.start()));
    else if (c.circular())
        text += fmt::format(" (arc of radius {:.5g} from {} to {})", norm(c.axis_a()), told_point(c.start()),
                            told_point(c.end()));
    else
        text += fmt::format(" ({} to {})", told_point(c.start()), told_point(c.end()));
    return text;
}

template <class Tell>
std::string listed(const std::vector<int>& items, Tell tell) {
    std::string text;
    for (std::size_t k = 0; k < std::min(items.size(), most_listed); ++k) text += (k ? ", " : "") + tell(items[k]);
    if (items.size() > most_listed) text += fmt::format(" and {} more", items.size() - most_listed);
    return text;
}

class Selector {
  public:
    Selector(const Study& study, const SelectionSpec& spec, Part& part, Problems& problems)
        : study_(study), spec_(spec), part_(part), problems_(problems), near_(same_share * part.box.diagonal()) {}

    void run() {
        for (const auto& [patterns, key] : {std::pair{&spec_.named, "named"}, std::pair{&spec_.beside, "beside"}})
            for (const auto& pattern : *patterns) {
                const bool known = std::any_of(part_.boundary_names.begin(), part_.boundary_names.end(),
                                               [&](const auto& n) { return fits_pattern(n, pattern); }) ||
                                   !part_.points_named({pattern}).empty();
                if (known) continue;
                const std::string near = nearest(pattern, part_.boundary_names);
                fault(pattern, fmt::format("{} = \"{}\" fits no name", key, pattern),
                      near.empty()
                          ? fmt::format("names are {}", quoted_list(part_.boundary_names))
                          : fmt::format("did you mean \"{}\"? names are {}", near, quoted_list(part_.boundary_names)));
                return;
            }
        for (const auto& pattern : spec_.around)
            if (part_.regions_named({pattern}).empty()) {
                fault(pattern, fmt::format("around = \"{}\" fits no region", pattern),
                      fmt::format("regions are {}", quoted_list(part_.regions)));
                return;
            }
        if (spec_.points)
            select_points();
        else
            select_edges();
    }

  private:
    void fault(const std::string& what, const std::string& remedy) { fault({}, what, remedy); }
    /// Of a key or name of the selection.
    void fault(const std::string& place, const std::string& what, const std::string& remedy) {
        problems_.add(study_.place_of("part.selection." + spec_.name, place, spec_.where),
                      fmt::format("part.selection.{}: {}", spec_.name, what), remedy);
    }

    /// All sampled points of the edge satisfy a condition.
    template <class Holds>
    static bool all_along(Holds holds) {
        for (int k = 0; k <= samples; ++k)
            if (!holds(static_cast<double>(k) / samples)) return false;
        return true;
    }

    bool in_box(const Vec2& p) const {
        const Vec2 &a = spec_.box->from, &b = spec_.box->to;
        for (std::size_t axis = 0; axis < 2; ++axis)
            if (p[axis] < std::min(a[axis], b[axis]) - near_ || p[axis] > std::max(a[axis], b[axis]) + near_)
                return false;
        return true;
    }
    bool on_line(const Vec2& p) const {
        const Vec2 d = (spec_.line->to - spec_.line->from) / distance(spec_.line->from, spec_.line->to);
        return std::fabs(cross(d, p - spec_.line->from)) <= near_;
    }

    bool fits(int e) const {
        const auto& edge = part_.edge(e);
        const Curve& c = edge.curve;
        if (!spec_.named.empty() && std::none_of(edge.names.begin(), edge.names.end(), [&](int n) {
                return fits_any(part_.boundary_names[static_cast<std::size_t>(n)], spec_.named);
            }))
            return false;
        if (spec_.box) {
            const Box2 box = c.box();
            if (!in_box(box.low) || !in_box(box.high)) return false;
        }
        if (spec_.line && !all_along([&](double t) { return on_line(c.point(t)); })) return false;
        if (spec_.normal) {
            if (edge.interior()) return false;
            const bool holds = all_along([&](double t) {
                const Vec2 out = -turned_left(c.derivative(t));
                return std::fabs(std::atan2(cross(out, *spec_.normal), dot(out, *spec_.normal))) <= spec_.within;
            });
            if (!holds) return false;
        }
        if (spec_.radius) {
            if (!c.circular()) return false;
            const double r = norm(c.axis_a());
            if (r < (*spec_.radius)[0] * (1 - same_radius) || r > (*spec_.radius)[1] * (1 + same_radius)) return false;
        }
        if (!spec_.around.empty()) {
            const auto region = [&](int f) {
                return f < 0 ? std::string{}
                             : part_.regions[static_cast<std::size_t>(part_.faces[static_cast<std::size_t>(f)].region)];
            };
            const std::string l = region(edge.left), r = region(edge.right);
            if (l == r || !(fits_any(l, spec_.around) || fits_any(r, spec_.around))) return false;
        }
        if (!spec_.beside.empty()) {
            const auto others = part_.edges_named(spec_.beside);
            if (std::find(others.begin(), others.end(), e) != others.end()) return false;
            const bool touches = std::any_of(others.begin(), others.end(), [&](int o) {
                const auto& other = part_.edge(o);
                return edge.start == other.start || edge.start == other.end || edge.end == other.start ||
                       edge.end == other.end;
            });
            if (!touches) return false;
        }
        return true;
    }

    /// Of several, the nearest to the point; all that are equally near.
    template <class Distance>
    std::vector<int> keep_nearest(const std::vector<int>& items, Distance distance_of) const {
        double least = INFINITY;
        for (const int i : items) least = std::min(least, distance_of(i));
        std::vector<int> out;
        for (const int i : items)
            if (distance_of(i) <= least + near_) out.push_back(i);
        return out;
    }

    void follow_tangent(std::vector<int>& chosen) const {
        const auto direction = [&](int e, int vertex) {  // leaving the vertex
            const auto& edge = part_.edge(e);
            return edge.start == vertex ? edge.curve.derivative(0) : -edge.curve.derivative(1);
        };
        std::vector<int> open = chosen;
        while (!open.empty()) {
            const int e = open.back();
            open.pop_back();
            for (const int v : {part_.edge(e).start, part_.edge(e).end}) {
                const Vec2 d = -direction(e, v);
                for (std::size_t o = 0; o < part_.edges.size(); ++o) {
                    const int other = static_cast<int>(o);
                    if (part_.edges[o].start != v && part_.edges[o].end != v) continue;
                    if (std::find(chosen.begin(), chosen.end(), other) != chosen.end()) continue;
                    const Vec2 on = direction(other, v);
                    if (std::fabs(std::atan2(cross(d, on), dot(d, on))) > smooth_angle) continue;
                    chosen.push_back(other);
                    open.push_back(other);
                }
            }
        }
        std::sort(chosen.begin(), chosen.end());
    }

    void select_edges() {
        std::vector<int> all, chosen;
        for (std::size_t e = 0; e < part_.edges.size(); ++e) all.push_back(static_cast<int>(e));
        for (const int e : all)
            if (fits(e)) chosen.push_back(e);
        const auto tell = [&](int e) { return told_edge(part_, e); };
        if (spec_.nearest) {
            const auto from = [&](int e) {
                const Curve& c = part_.edge(e).curve;
                return distance(c.point(c.project(*spec_.nearest)), *spec_.nearest);
            };
            chosen = keep_nearest(chosen, from);
            if (chosen.size() > 1 && !spec_.count) {
                fault(
                    fmt::format("{} edges are equally near to {}", chosen.size(), told_point(*spec_.nearest)),
                    fmt::format("move the point, or say count = {}; they are {}", chosen.size(), listed(chosen, tell)));
                return;
            }
        }
        if (spec_.follow_tangent) follow_tangent(chosen);
        if (!judge(chosen, all, "edge", tell)) return;
        for (const int e : chosen) part_.name_edge(e, spec_.name);
    }

    void select_points() {
        std::vector<int> all, chosen;
        for (std::size_t v = 0; v < part_.vertices.size(); ++v) all.push_back(static_cast<int>(v));
        const auto named = part_.points_named(spec_.named);
        const auto beside = part_.edges_named(spec_.beside);
        for (const int v : all) {
            const Vec2& p = part_.vertex(v);
            if (!spec_.named.empty() && std::find(named.begin(), named.end(), v) == named.end()) continue;
            if (spec_.box && !in_box(p)) continue;
            if (spec_.line && !on_line(p)) continue;
            if (!spec_.beside.empty() && std::none_of(beside.begin(), beside.end(), [&](int e) {
                    return part_.edge(e).start == v || part_.edge(e).end == v;
                }))
                continue;
            chosen.push_back(v);
        }
        const auto tell = [&](int v) { return told_point(part_.vertex(v)); };
        if (spec_.nearest) {
            chosen = keep_nearest(chosen, [&](int v) { return distance(part_.vertex(v), *spec_.nearest); });
            if (chosen.size() > 1 && !spec_.count) {
                fault(
                    fmt::format("{} points are equally near to {}", chosen.size(), told_point(*spec_.nearest)),
                    fmt::format("move the point, or say count = {}; they are {}", chosen.size(), listed(chosen, tell)));
                return;
            }
        }
        if (!judge(chosen, all, "point", tell)) return;
        for (const int v : chosen) part_.points.push_back({spec_.name, v});
    }

    template <class Tell>
    bool judge(const std::vector<int>& chosen, const std::vector<int>& all, const char* kind, Tell tell) {
        if (chosen.empty()) {
            fault(fmt::format("no {} fits all of its rules", kind),
                  fmt::format("{}s of the part are {}", kind, listed(all, tell)));
            return false;
        }
        if (!spec_.count || *spec_.count == static_cast<std::int64_t>(chosen.size())) return true;
        fault("count",
              fmt::format("{} {}{} were expected, but {} {}", *spec_.count, kind, *spec_.count == 1 ? "" : "s",
                          chosen.size(), chosen.size() == 1 ? "fits" : "fit"),
              fmt::format("found: {}", listed(chosen, tell)));
        return false;
    }

    const Study& study_;
    const SelectionSpec& spec_;
    Part& part_;
    Problems& problems_;
    double near_;
};

}  // namespace

namespace {

/// Names that mean two things would be taken for the wrong one sooner or later.
void check_double_names(const Study& study, const PartNames& part, Problems& problems) {
    const auto& taken = part.boundary_names;
    const auto is_taken = [&](const std::string& name) {
        return std::find(taken.begin(), taken.end(), name) != taken.end();
    };
    for (const auto& x : study.interfaces)
        if (is_taken(x.name))
            problems.add(x.where, fmt::format("part.interface.{}: shapes have edges of this name already", x.name),
                         "choose another name");
    for (const auto& x : study.selections)
        if (!x.points && is_taken(x.name))
            problems.add(x.where, fmt::format("part.selection.{}: shapes have edges of this name already", x.name),
                         "choose another name");
    for (const auto& region : part.regions)
        if (is_taken(region))
            problems.add(study.part_where, fmt::format("\"{}\" names a region and edges", region),
                         "choose another name for one of them");
    std::vector<std::string> points;
    for (const auto& s : study.shapes) {
        if (s.primitive != Primitive::point) continue;
        const bool copies = s.placement.repeat[0] * s.placement.repeat[1] > 1;
        if (std::find(points.begin(), points.end(), s.name) != points.end() ||
            (copies && s.name.find('#') == std::string::npos))
            problems.add(s.where, fmt::format("the name \"{}\" is given to more than one point", s.name),
                         copies ? "put # into the name, it counts the copies" : "give each its own");
        points.push_back(s.name);
    }
}

}  // namespace

namespace {

/// Edges of a plane part, faces of a solid, and the regions on both of their sides.
std::vector<PartEdge>& sides_of(Part& part) {
    return part.edges;
}
std::vector<SolidFace>& sides_of(SolidPart& part) {
    return part.faces;
}
std::array<int, 2> regions_beside(const Part& part, const PartEdge& edge) {
    return {part.faces[static_cast<std::size_t>(edge.left)].region,
            part.faces[static_cast<std::size_t>(edge.right)].region};
}
std::array<int, 2> regions_beside(const SolidPart& part, const SolidFace& face) {
    return {part.bodies[static_cast<std::size_t>(face.behind)].region,
            part.bodies[static_cast<std::size_t>(face.before)].region};
}

}  // namespace

template <int D>
void name_interfaces(const Study& study, PartIn<D>& part, Problems& problems) {
    check_double_names(study, part, problems);
    std::vector<char> used(study.interfaces.size(), 0);
    for (auto& side : sides_of(part)) {
        if (!side.interior()) continue;
        auto [a, b] = regions_beside(part, side);
        if (a == b) continue;
        if (a > b) std::swap(a, b);
        const auto &first = part.regions[static_cast<std::size_t>(a)],
                   &second = part.regions[static_cast<std::size_t>(b)];
        bool named = false;
        for (std::size_t i = 0; i < study.interfaces.size(); ++i) {
            const auto& between = study.interfaces[i].between;
            if (!((between[0] == first && between[1] == second) || (between[0] == second && between[1] == first)))
                continue;
            part.add_name(study.interfaces[i].name, side.names);
            used[i] = named = true;
        }
        if (!named) part.add_name(fmt::format("{}_and_{}", first, second), side.names);
    }
    for (std::size_t i = 0; i < study.interfaces.size(); ++i) {
        if (used[i]) continue;
        const auto& x = study.interfaces[i];
        std::string remedy = "they do not touch";
        for (const auto& name : x.between)
            if (std::find(part.regions.begin(), part.regions.end(), name) == part.regions.end())
                remedy = fmt::format("\"{}\" is no region; regions are {}", name, quoted_list(part.regions));
        problems.add(x.where,
                     fmt::format("part.interface.{}: no {} lies between \"{}\" and \"{}\"", x.name,
                                 D == 2 ? "edge" : "face", x.between[0], x.between[1]),
                     remedy);
    }
}
template void name_interfaces<2>(const Study&, Part&, Problems&);
template void name_interfaces<3>(const Study&, SolidPart&, Problems&);

void apply_selections(const Study& study, Part& part, Problems& problems) {
    for (const auto& s : study.selections) Selector(study, s, part, problems).run();
}

}  // namespace dotsift
