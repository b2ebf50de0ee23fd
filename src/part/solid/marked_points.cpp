#include "part/solid/marked_points.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/errors.hpp"
#include "part/solid/body_finder.hpp"

namespace dotsift {

namespace {

/// Puts points on a part, one after the other.
class Marking {
  public:
    explicit Marking(SolidPart& part) : part_(part), finder_(part), near_(same_point_share * part.box.diagonal()) {}

    /// The vertex of a place; nothing: it lies outside.
    std::optional<int> vertex_at(const Vec3& p) {
        for (std::size_t v = 0; v < part_.vertices.size(); ++v)
            if (distance(part_.vertices[v], p) <= near_) return static_cast<int>(v);
        for (std::size_t e = 0; e < part_.edges.size(); ++e) {
            const auto& curve = part_.edges[e].curve;
            if (curve.box().distance_to(p) > near_) continue;
            const double t = curve.project(p);
            if (distance(curve.point(t), p) <= near_) return part_edge(static_cast<int>(e), t);
        }
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            const Surface& s = part_.faces[f].surface;
            const Vec3 on = s.point(s.project(p));
            if (distance(on, p) > near_ || !finder_.inside_face(f, on)) continue;
            const int v = new_vertex(on);
            part_.faces[f].marks.push_back(v);
            return v;
        }
        if (finder_(p) < 0) return std::nullopt;
        return new_vertex(p);
    }

  private:
    int new_vertex(const Vec3& p) {
        part_.vertices.push_back(p);
        return static_cast<int>(part_.vertices.size()) - 1;
    }

    /// In two at a parameter; the second piece is a new edge.
    int part_edge(int edge, double t) {
        SolidEdge first = part_.edge(edge), second = first;
        const int v = new_vertex(first.curve.point(t));
        const Vec3 place = part_.vertices.back();
        second.curve = first.curve.piece(t, 1);
        first.curve = first.curve.piece(0, t);
        first.curve.set_ends(first.curve.start(), place);
        second.curve.set_ends(place, second.curve.end());
        first.end = second.start = v;
        const int added = static_cast<int>(part_.edges.size());
        part_.edges[static_cast<std::size_t>(edge)] = std::move(first);
        part_.edges.push_back(std::move(second));
        for (auto& face : part_.faces)
            for (auto& loop : face.loops)
                for (std::size_t k = 0; k < loop.size(); ++k) {
                    if (loop[k].edge != edge) continue;
                    EdgeUse other = loop[k];
                    other.edge = added;
                    const bool forward = loop[k].forward;
                    loop.insert(loop.begin() + static_cast<std::ptrdiff_t>(k + (forward ? 1 : 0)), other);
                    ++k;
                }
        return v;
    }

    SolidPart& part_;
    BodyFinder finder_;
    double near_;
};

/// Names that mean two things would be taken for the wrong one sooner or later.
bool is_taken(const SolidPart& part, const std::string& name) {
    const auto in = [&](const std::vector<std::string>& list) {
        return std::find(list.begin(), list.end(), name) != list.end();
    };
    return in(part.boundary_names) || in(part.regions) || in(part.edge_names) ||
           std::any_of(part.points.begin(), part.points.end(), [&](const PartPoint& p) { return p.name == name; });
}

}  // namespace

std::vector<int> SolidPart::edges_named(const std::vector<std::string>& patterns) const {
    std::vector<int> list;
    for (std::size_t e = 0; e < edges.size(); ++e)
        if (std::any_of(edges[e].names.begin(), edges[e].names.end(),
                        [&](int n) { return fits_any(edge_names[static_cast<std::size_t>(n)], patterns); }))
            list.push_back(static_cast<int>(e));
    return list;
}

std::string SolidPart::name_of_edge(int e) const {
    const auto& names = edge(e).names;
    return names.empty() ? fmt::format("edge {}", e + 1)
                         : fmt::format("\"{}\"", edge_names[static_cast<std::size_t>(names.front())]);
}

void mark_points(const std::vector<MarkedPoint>& points, SolidPart& part, Problems& problems) {
    if (points.empty()) return;
    Marking marking(part);
    for (const MarkedPoint& p : points) {
        if (is_taken(part, p.name)) {
            problems.add(p.where, fmt::format("the name \"{}\" is taken already", p.name),
                         "give each point its own; # in a name counts copies");
            continue;
        }
        if (const auto v = marking.vertex_at(p.at))
            part.points.push_back({p.name, *v});
        else
            problems.add(p.where,
                         fmt::format("the point \"{}\" at ({:g}, {:g}, {:g}) lies outside the part", p.name, p.at[0],
                                     p.at[1], p.at[2]),
                         "points are marked on edges and faces, and inside");
    }
}

void name_edges(const std::vector<BetweenSpec>& edges, SolidPart& part, Problems& problems) {
    if (edges.empty()) return;
    std::vector<std::vector<int>> beside(part.edges.size());
    for (std::size_t f = 0; f < part.faces.size(); ++f)
        for (const auto& loop : part.faces[f].loops)
            for (const EdgeUse& use : loop) beside[static_cast<std::size_t>(use.edge)].push_back(static_cast<int>(f));
    for (const BetweenSpec& spec : edges) {
        const std::string user = "part.edge." + spec.name;
        if (is_taken(part, spec.name)) {
            problems.add(spec.where, fmt::format("{}: the name is taken already", user), "choose another one");
            continue;
        }
        std::array<std::vector<int>, 2> faces;
        bool known = true;
        for (std::size_t k = 0; k < 2; ++k) {
            faces[k] = part.faces_named({spec.between[k]});
            if (!faces[k].empty()) continue;
            known = false;
            const std::string near = nearest(spec.between[k], part.boundary_names);
            problems.add(spec.where, fmt::format("{}: no face is named \"{}\"", user, spec.between[k]),
                         near.empty() ? fmt::format("names are {}", quoted_list(part.boundary_names))
                                      : fmt::format("did you mean \"{}\"?", near));
        }
        if (!known) continue;
        const auto number = static_cast<int>(part.edge_names.size());
        const auto among = [](const std::vector<int>& list, int f) {
            return std::find(list.begin(), list.end(), f) != list.end();
        };
        bool found = false;
        for (std::size_t e = 0; e < part.edges.size(); ++e) {
            const auto& b = beside[e];
            bool meets = false;
            for (std::size_t i = 0; i < b.size(); ++i)
                for (std::size_t j = 0; j < b.size(); ++j)
                    meets = meets || (b[i] != b[j] && among(faces[0], b[i]) && among(faces[1], b[j]));
            if (!meets) continue;
            part.edges[e].names.push_back(number);
            found = true;
        }
        part.edge_names.push_back(spec.name);
        if (!found)
            problems.add(
                spec.where,
                fmt::format("{}: no edge lies between \"{}\" and \"{}\"", user, spec.between[0], spec.between[1]),
                "they do not meet");
    }
}

}  // namespace dotsift
