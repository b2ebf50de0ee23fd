#include "part/solid/space_selection.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/numbers.hpp"
#include "part/solid/body_finder.hpp"
#include "part/solid/edge_wedges.hpp"
#include "part/solid/surface_kind.hpp"

namespace dotsift {

namespace {

using Pick = SpaceSelectionSpec::Pick;
using Kind = SpaceSelectionSpec::Kind;

constexpr int looked_at = 5;            // places along each side of a face, at which a rule must hold
constexpr int along_edge = 16;          // and along an edge
constexpr double near_share = 1e-6;     // of the part's size: in a plane, in a box, equally near
constexpr double equal_share = 1e-6;    // relative: the same radius
constexpr double tangent_angle = 1e-3;  // radians between normals, or tangents, that count as one
constexpr std::size_t most_candidates = 10;

const char* name_of(Kind kind) {
    constexpr std::array names{"plane", "cylinder", "cone", "sphere", "ring", "surface"};
    return names[static_cast<std::size_t>(kind)];
}

/// What the rules of all selections look at, found once.
class Places {
  public:
    explicit Places(const SolidPart& part) : part_(part), finder_(part), faces_(part) {}

    struct OnFace {
        Vec3 point, normal;
    };
    [[nodiscard]] std::vector<OnFace> on_face(int f) const {
        const Surface& s = part_.face(f).surface;
        std::vector<OnFace> out;
        for (const Vec2& at : finder_.places_on(static_cast<std::size_t>(f), looked_at))
            out.push_back({s.point(at), s.normal(at)});
        for (const Vec3& p : rim(f)) out.push_back({p, s.normal(s.project(p))});
        return out;
    }
    [[nodiscard]] std::vector<Vec3> rim(int f) const {
        std::vector<Vec3> out;
        for (const auto& loop : part_.face(f).loops)
            for (const auto& use : loop)
                for (const Vec3& p : on_edge(use.edge)) out.push_back(p);
        return out;
    }
    [[nodiscard]] std::vector<Vec3> on_edge(int e) const {
        std::vector<Vec3> out;
        for (int k = 0; k <= along_edge; ++k)
            out.push_back(part_.edge(e).curve.point(static_cast<double>(k) / along_edge));
        return out;
    }
    /// To the face itself, not to what its surface goes on to.
    [[nodiscard]] double to_face(int f, const Vec3& p) const {
        const Surface& s = part_.face(f).surface;
        const Vec3 q = s.point(s.project(p));
        if (finder_.inside_face(static_cast<std::size_t>(f), q)) return distance(p, q);
        double least = INFINITY;
        for (const auto& loop : part_.face(f).loops)
            for (const auto& use : loop) least = std::min(least, to_edge(use.edge, p));
        return least;
    }
    [[nodiscard]] double to_edge(int e, const Vec3& p) const {
        const auto& curve = part_.edge(e).curve;
        return distance(curve.point(curve.project(p)), p);
    }
    [[nodiscard]] const EdgeFaces& faces() const { return faces_; }

  private:
    const SolidPart& part_;
    BodyFinder finder_;
    EdgeFaces faces_;
};

class SpaceSelector {
  public:
    SpaceSelector(const Study& study, const SpaceSelectionSpec& spec, const Places& places, const SolidPart& part,
                  Problems& problems)
        : study_(study),
          spec_(spec),
          places_(places),
          part_(part),
          problems_(problems),
          near_(near_share * part.box.diagonal()) {}

    /// Nothing where there is a fault.
    std::vector<int> run() {
        if (!names_are_known()) return {};
        std::vector<int> chosen;
        const int all = static_cast<int>(spec_.pick == Pick::faces   ? part_.faces.size()
                                         : spec_.pick == Pick::edges ? part_.edges.size()
                                                                     : part_.vertices.size());
        for (int i = 0; i < all; ++i)
            if (fits(i)) chosen.push_back(i);
        if (spec_.nearest && !keep_nearest(chosen)) return {};
        if (spec_.follow_tangent) follow_tangent(chosen);
        if (!judge(chosen, all)) return {};
        return chosen;
    }

  private:
    void fault(const std::string& place, const std::string& what, const std::string& remedy,
               const std::vector<int>& candidates = {}) {
        std::vector<Vec3> spots;
        for (std::size_t k = 0; k < std::min(candidates.size(), most_candidates); ++k)
            spots.push_back(spot_of(candidates[k]));
        const std::string numbered = spots.empty() ? "" : "; dotsift inspect -o draws these numbers";
        problems_.add(study_.place_of("part.selection." + spec_.name, place, spec_.where),
                      fmt::format("part.selection.{}: {}", spec_.name, what), remedy + numbered, std::move(spots));
    }
    /// A place on it.
    [[nodiscard]] Vec3 spot_of(int i) const {
        if (spec_.pick == Pick::points) return part_.vertices[static_cast<std::size_t>(i)];
        if (spec_.pick == Pick::edges) return part_.edge(i).curve.point(0.5);
        const Surface& s = part_.face(i).surface;
        return s.point(s.project(measure_face(part_, static_cast<std::size_t>(i)).centroid));
    }

    bool names_are_known() {
        std::vector<std::string> known = part_.boundary_names;
        known.insert(known.end(), part_.edge_names.begin(), part_.edge_names.end());
        for (const auto& p : part_.points) known.push_back(p.name);
        for (const auto& [patterns, key, names] : {std::tuple{&spec_.named, "named", &std::as_const(known)},
                                                   std::tuple{&spec_.beside, "beside", &part_.boundary_names},
                                                   std::tuple{&spec_.around, "around", &part_.regions}})
            for (const auto& pattern : *patterns) {
                if (std::any_of(names->begin(), names->end(), [&](const auto& n) { return fits_pattern(n, pattern); }))
                    continue;
                const std::string close = nearest(pattern, *names);
                fault(pattern, fmt::format("{} = \"{}\" fits no name", key, pattern),
                      fmt::format("{}names are {}", close.empty() ? "" : fmt::format("did you mean \"{}\"? ", close),
                                  quoted_list(*names)));
                return false;
            }
        return true;
    }

    [[nodiscard]] bool in_box(const Vec3& p) const {
        const auto& [a, b] = *spec_.box;
        for (std::size_t axis = 0; axis < 3; ++axis)
            if (p[axis] < std::min(a[axis], b[axis]) - near_ || p[axis] > std::max(a[axis], b[axis]) + near_)
                return false;
        return true;
    }
    [[nodiscard]] bool in_plane(const Vec3& p) const {
        const auto& [at, normal] = *spec_.plane;
        return std::fabs(dot(p - at, normal)) <= near_ * norm(normal);
    }
    [[nodiscard]] static bool within(const std::array<double, 2>& range, double value) {
        return value >= range[0] * (1 - equal_share) && value <= range[1] * (1 + equal_share);
    }

    [[nodiscard]] bool named_so(const std::vector<int>& names, const std::vector<std::string>& known) const {
        return std::any_of(names.begin(), names.end(),
                           [&](int n) { return fits_any(known[static_cast<std::size_t>(n)], spec_.named); });
    }
    [[nodiscard]] bool beside_face(int f) const {
        const auto others = part_.faces_named(spec_.beside);
        if (std::find(others.begin(), others.end(), f) != others.end()) return false;
        for (const auto& loop : part_.face(f).loops)
            for (const auto& use : loop)
                for (const auto& other : places_.faces().at(static_cast<std::size_t>(use.edge)))
                    if (std::find(others.begin(), others.end(), other.face) != others.end()) return true;
        return false;
    }
    [[nodiscard]] bool around_region(const SolidFace& face) const {
        const auto region = [&](int body) {
            return body < 0
                       ? std::string{}
                       : part_.regions[static_cast<std::size_t>(part_.bodies[static_cast<std::size_t>(body)].region)];
        };
        const std::string a = region(face.behind), b = region(face.before);
        return a != b && (fits_any(a, spec_.around) || fits_any(b, spec_.around));
    }

    [[nodiscard]] bool fits(int i) const {
        std::vector<Vec3> places;
        switch (spec_.pick) {
            case Pick::faces: {
                const SolidFace& face = part_.face(i);
                if (!spec_.named.empty() && !named_so(face.names, part_.boundary_names)) return false;
                const SurfaceKind kind = kind_of(face.surface);
                if (spec_.kind && *spec_.kind != kind.kind) return false;
                if (spec_.radius && (kind.radius == 0 || !within(*spec_.radius, kind.radius))) return false;
                if (!spec_.around.empty() && !around_region(face)) return false;
                if (!spec_.beside.empty() && !beside_face(i)) return false;
                if (spec_.size && !within(*spec_.size, measure_face(part_, static_cast<std::size_t>(i)).size))
                    return false;
                if (!spec_.normal && !spec_.box && !spec_.plane) return true;
                for (const auto& p : places_.on_face(i)) {
                    if (spec_.normal &&
                        std::atan2(norm(cross(p.normal, *spec_.normal)), dot(p.normal, *spec_.normal)) > spec_.within)
                        return false;
                    places.push_back(p.point);
                }
                break;
            }
            case Pick::edges: {
                const SolidEdge& edge = part_.edge(i);
                const auto& uses = places_.faces().at(static_cast<std::size_t>(i));
                if (!spec_.named.empty() && !named_so(edge.names, part_.edge_names)) return false;
                if (spec_.radius && !(edge.curve.circular() && within(*spec_.radius, norm(edge.curve.axis_a()))))
                    return false;
                if (spec_.size && !within(*spec_.size, edge.curve.length())) return false;
                const auto any_face = [&](auto holds) {
                    return std::any_of(uses.begin(), uses.end(), [&](const auto& u) { return holds(u.face); });
                };
                if (!spec_.beside.empty()) {
                    const auto others = part_.faces_named(spec_.beside);
                    if (!any_face([&](int f) { return std::find(others.begin(), others.end(), f) != others.end(); }))
                        return false;
                }
                if (!spec_.around.empty() && !any_face([&](int f) { return around_region(part_.face(f)); }))
                    return false;
                places = places_.on_edge(i);
                break;
            }
            case Pick::points:
                places = {part_.vertices[static_cast<std::size_t>(i)]};
                if (!spec_.named.empty() && std::none_of(part_.points.begin(), part_.points.end(), [&](const auto& p) {
                        return p.vertex == i && fits_any(p.name, spec_.named);
                    }))
                    return false;
                break;
        }
        return std::all_of(places.begin(), places.end(),
                           [&](const Vec3& p) { return (!spec_.box || in_box(p)) && (!spec_.plane || in_plane(p)); });
    }

    [[nodiscard]] double away(int i) const {
        if (spec_.pick == Pick::faces) return places_.to_face(i, *spec_.nearest);
        if (spec_.pick == Pick::edges) return places_.to_edge(i, *spec_.nearest);
        return distance(part_.vertices[static_cast<std::size_t>(i)], *spec_.nearest);
    }

    /// All that are equally near to the point; false: several, and nobody said how many.
    bool keep_nearest(std::vector<int>& chosen) {
        double least = INFINITY;
        for (const int i : chosen) least = std::min(least, away(i));
        std::erase_if(chosen, [&](int i) { return away(i) > least + near_; });
        if (chosen.size() < 2 || spec_.count) return true;
        fault({}, fmt::format("{} {} are equally near to {}", chosen.size(), kinds(), told_point(*spec_.nearest)),
              fmt::format("move the point, or say count = {}; they are {}", chosen.size(), listed(chosen)), chosen);
        return false;
    }

    void follow_tangent(std::vector<int>& chosen) const {
        std::vector<char> in(spec_.pick == Pick::faces ? part_.faces.size() : part_.edges.size(), 0);
        for (const int i : chosen) in[static_cast<std::size_t>(i)] = 1;
        for (std::size_t k = 0; k < chosen.size(); ++k)
            for (const int next : spec_.pick == Pick::faces ? smooth_faces(chosen[k]) : smooth_edges(chosen[k])) {
                if (in[static_cast<std::size_t>(next)]) continue;
                in[static_cast<std::size_t>(next)] = 1;
                chosen.push_back(next);
            }
        std::sort(chosen.begin(), chosen.end());
    }
    [[nodiscard]] std::vector<int> smooth_faces(int f) const {
        std::vector<int> out;
        for (const auto& loop : part_.face(f).loops)
            for (const auto& use : loop)
                for (const auto& other : places_.faces().at(static_cast<std::size_t>(use.edge))) {
                    if (other.face == f) continue;
                    const Vec3 p = part_.edge(use.edge).curve.point(0.5);
                    const Surface &a = part_.face(f).surface, &b = part_.face(other.face).surface;
                    const Vec3 n = a.normal(a.project(p)), m = b.normal(b.project(p));
                    if (std::atan2(norm(cross(n, m)), dot(n, m)) <= tangent_angle) out.push_back(other.face);
                }
        return out;
    }
    [[nodiscard]] std::vector<int> smooth_edges(int e) const {
        const auto leaving = [&](const SolidEdge& edge, int v) {
            return edge.start == v ? edge.curve.derivative(0) : -edge.curve.derivative(1);
        };
        std::vector<int> out;
        const SolidEdge& edge = part_.edge(e);
        for (const int v : {edge.start, edge.end})
            for (std::size_t o = 0; o < part_.edges.size(); ++o) {
                const SolidEdge& other = part_.edges[o];
                if (static_cast<int>(o) == e || (other.start != v && other.end != v)) continue;
                const Vec3 a = -leaving(edge, v), b = leaving(other, v);
                if (std::atan2(norm(cross(a, b)), dot(a, b)) <= tangent_angle) out.push_back(static_cast<int>(o));
            }
        return out;
    }

    [[nodiscard]] std::string tell(int i) const {
        if (spec_.pick == Pick::points) return told_point(part_.vertices[static_cast<std::size_t>(i)]);
        if (spec_.pick == Pick::edges) {
            const auto& c = part_.edge(i).curve;
            return fmt::format("edge {} (length {:.5g}, through {})", i + 1, c.length(), told_point(c.point(0.5)));
        }
        const auto m = measure_face(part_, static_cast<std::size_t>(i));
        const SurfaceKind kind = kind_of(part_.face(i).surface);
        return fmt::format("{} ({}{}, area {:.5g}, about {})", part_.name_of_face(i), name_of(kind.kind),
                           kind.radius > 0 ? fmt::format(" of radius {:.5g}", kind.radius) : "", m.size,
                           told_point(m.centroid));
    }
    [[nodiscard]] std::string listed(const std::vector<int>& items) const {
        std::string text;
        for (std::size_t k = 0; k < std::min(items.size(), most_candidates); ++k)
            text += fmt::format("{}{}: {}", k > 0 ? ", " : "", k + 1, tell(items[k]));
        if (items.size() > most_candidates) text += fmt::format(" and {} more", items.size() - most_candidates);
        return text;
    }
    [[nodiscard]] const char* kinds() const {
        return spec_.pick == Pick::faces ? "faces" : spec_.pick == Pick::edges ? "edges" : "points";
    }

    bool judge(const std::vector<int>& chosen, int all) {
        if (chosen.empty()) {
            std::vector<int> every(static_cast<std::size_t>(all));
            std::iota(every.begin(), every.end(), 0);
            fault({}, fmt::format("no {} fit all of its rules", kinds()),
                  fmt::format("{} of the part are {}", kinds(), listed(every)), every);
            return false;
        }
        if (!spec_.count || *spec_.count == static_cast<std::int64_t>(chosen.size())) return true;
        fault("count", fmt::format("{} {} were expected, but {} fit", *spec_.count, kinds(), chosen.size()),
              fmt::format("found: {}", listed(chosen)), chosen);
        return false;
    }

    const Study& study_;
    const SpaceSelectionSpec& spec_;
    const Places& places_;
    const SolidPart& part_;
    Problems& problems_;
    double near_;
};

void give_name(const SpaceSelectionSpec& spec, int i, SolidPart& part) {
    const auto at = static_cast<std::size_t>(i);
    if (spec.pick == Pick::points) {
        part.points.push_back({spec.name, i});
        return;
    }
    if (spec.pick == Pick::faces) {
        part.add_name(spec.name, part.faces[at].names);
        std::sort(part.faces[at].names.begin(), part.faces[at].names.end());
        return;
    }
    auto& known = part.edge_names;
    auto found = std::find(known.begin(), known.end(), spec.name);
    if (found == known.end()) found = known.insert(known.end(), spec.name);
    part.edges[at].names.push_back(static_cast<int>(found - known.begin()));
}

/// Used by a change that stands before.
bool serves_a_change(const Study& study, const SpaceSelectionSpec& spec) {
    return std::any_of(study.space_shapes.begin(), study.space_shapes.end(),
                       [&](const SpaceShapeSpec& s) { return s.edge_rule == spec.name; });
}

}  // namespace

void apply_space_selections(const Study& study, SolidPart& part, Problems& problems) {
    if (study.space_selections.empty()) return;
    const Places places(part);
    for (const auto& spec : study.space_selections) {
        const auto& taken = part.boundary_names;
        if (spec.pick == Pick::faces && std::find(taken.begin(), taken.end(), spec.name) != taken.end()) {
            problems.add(spec.where,
                         fmt::format("part.selection.{}: shapes have faces of this name already", spec.name),
                         "choose another name");
            continue;
        }
        if (serves_a_change(study, spec)) continue;
        for (const int i : SpaceSelector(study, spec, places, part, problems).run()) give_name(spec, i, part);
    }
}

std::vector<int> edges_by_rule(const Study& study, const std::string& name, const SolidPart& part, Where where,
                               Problems& problems) {
    std::vector<std::string> known;
    for (const auto& spec : study.space_selections) {
        if (spec.pick != SpaceSelectionSpec::Pick::edges) continue;
        known.push_back(spec.name);
        if (spec.name == name) return SpaceSelector(study, spec, Places(part), part, problems).run();
    }
    problems.add(where, fmt::format("edges = \"{}\" is no selection of edges", name),
                 known.empty() ? fmt::format("add [part.selection.{}] with pick = \"edges\"", name)
                               : "selections of edges are " + quoted_list(known));
    return {};
}

}  // namespace dotsift
