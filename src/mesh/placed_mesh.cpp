#include "mesh/placed_mesh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include "base/errors.hpp"
#include "part/face_finder.hpp"

namespace dotsift {

namespace {

constexpr double on_edge = 1e-6;  // of the part's diagonal, or of an edge's length: a node this near lies on it

[[noreturn]] void disagree(const Mesh& mesh, std::size_t e) {
    Place place;
    place.position = mesh.centre_of(e);
    throw InputError("the mesh and the part do not agree on what is here", place,
                     "use the study that the mesh was made from");
}

class Placing {
  public:
    Placing(const Part& part, const Mesh& mesh) : part_(part), mesh_(mesh) {}

    PlacedMesh run() {
        find_sides();
        find_edges();
        find_faces();
        check_regions();
        return std::move(out_);
    }

  private:
    /// Who is on both sides of every side.
    void find_sides() {
        const std::size_t count = mesh_.sides.count();
        std::vector<PlacedSide> sides(count);
        for (std::size_t k = 0; k < count; ++k) {
            const auto& [first, second] = mesh_.sides.beside(k);
            const auto e = static_cast<std::size_t>(first.element);
            const auto nodes = mesh_.element(e);
            const auto& local = side_nodes(mesh_.kinds[e], first.side);
            PlacedSide& s = sides[k];
            s.left = first.element;
            s.right = second.element;
            s.from = nodes[local[0]];
            s.to = nodes[local[1]];
            if (local.size() > 2) s.middle = nodes[local[2]];
        }
        std::vector<std::int32_t> order(count);
        std::iota(order.begin(), order.end(), 0);
        std::stable_sort(order.begin(), order.end(), [&](std::int32_t a, std::int32_t b) {
            return sides[static_cast<std::size_t>(a)].corners() < sides[static_cast<std::size_t>(b)].corners();
        });
        out_.place.resize(count);
        for (std::size_t k = 0; k < count; ++k) {
            out_.place[static_cast<std::size_t>(order[k])] = static_cast<std::int32_t>(k);
            out_.sides.push_back(sides[static_cast<std::size_t>(order[k])]);
        }
    }

    [[nodiscard]] PlacedSide& under(const BoundarySide& b) {
        return out_.sides[static_cast<std::size_t>(
            out_.place[mesh_.sides.of(static_cast<std::size_t>(b.element), static_cast<std::size_t>(b.side))])];
    }

    /// The edge of the part under every boundary side, by place: files do not tell it. Nor do all of them tell the
    /// sides between two regions, or on edges within one: those are looked for.
    void find_edges() {
        out_.boundary = mesh_.boundary;
        for (const auto& b : out_.boundary) {
            const OnEdge best = edge_below(b.nodes, [](std::size_t) { return true; });
            if (best.edge < 0) {
                Place place;
                place.position = middle_of(b.nodes);
                throw InputError("a boundary side of the mesh lies on no edge of the part", place,
                                 "use the study that the mesh was made from");
            }
            put_on(best, b.nodes, under(b));
        }
        std::vector<double> open(part_.edges.size());  // the share of an inner edge that has no sides
        for (std::size_t e = 0; e < open.size(); ++e) open[e] = part_.edges[e].interior() ? 1 : 0;
        for (const auto& b : out_.boundary) {
            const OnEdge& on = under(b).on;
            open[static_cast<std::size_t>(on.edge)] -= std::fabs(on.to - on.from);
        }
        if (std::any_of(open.begin(), open.end(), [](double share) { return share > on_edge; })) find_inner_sides(open);
    }

    /// Sides whose ends lie on an inner edge, one behind the other. A chord across a bend of the edge is none.
    void find_inner_sides(const std::vector<double>& open) {
        std::map<int, std::vector<std::pair<OnEdge, std::size_t>>> found;
        for (std::size_t k = 0; k < out_.sides.size(); ++k) {
            const PlacedSide& s = out_.sides[k];
            if (!s.inner() || s.on.edge >= 0) continue;
            const std::array<int, 3> nodes{s.from, s.to, s.middle};
            const OnEdge on = edge_below(nodes, [&](std::size_t e) { return open[e] > on_edge; });
            if (on.edge >= 0) found[on.edge].emplace_back(on, k);
        }
        for (const auto& [edge, candidates] : found) {
            std::vector<double> ends;
            for (const auto& [on, k] : candidates) {
                ends.push_back(on.from);
                ends.push_back(on.to);
            }
            for (const auto& [on, k] : candidates) {
                const auto [low, high] = std::minmax(on.from, on.to);
                if (std::any_of(ends.begin(), ends.end(),
                                [low = low, high = high](double t) { return t > low + on_edge && t < high - on_edge; }))
                    continue;
                PlacedSide& s = out_.sides[k];
                const std::array<int, 3> nodes{s.from, s.to, s.middle};
                put_on(on, nodes, s);
                const auto around = mesh_.element(static_cast<std::size_t>(s.left));
                const auto begin = std::find(around.begin(), around.end(), s.from) - around.begin();
                out_.boundary.push_back({nodes, s.left, static_cast<int>(begin), edge});
            }
        }
    }

    [[nodiscard]] Vec2 middle_of(const std::array<int, 3>& nodes) const {
        return nodes[2] < 0 ? (node(nodes[0]) + node(nodes[1])) * 0.5 : node(nodes[2]);
    }

    /// The nearest of the edges that count; none if no such edge has both ends on it.
    template <class Counts>
    [[nodiscard]] OnEdge edge_below(const std::array<int, 3>& nodes, const Counts& counts) const {
        const double near = on_edge * part_.box.diagonal();
        const Vec2 &p = node(nodes[0]), &q = node(nodes[1]);
        const Vec2 middle = middle_of(nodes);
        OnEdge best;
        double least = INFINITY;
        for (std::size_t e = 0; e < part_.edges.size(); ++e) {
            const Curve& curve = part_.edges[e].curve;
            if (!counts(e) || curve.box().distance_to(p) > near || curve.box().distance_to(q) > near) continue;
            const double t = curve.project(middle), d = distance(curve.point(t), middle);
            if (d >= least) continue;
            double from = curve.project(p), to = curve.project(q);
            if (distance(curve.point(from), p) > near || distance(curve.point(to), q) > near) continue;
            if (curve.closed()) {  // its start is also its end: the one on the side of the middle is meant
                if (distance(p, curve.start()) <= near) from = t < 0.5 ? 0 : 1;
                if (distance(q, curve.start()) <= near) to = t < 0.5 ? 0 : 1;
            }
            best = {static_cast<int>(e), from, to};
            least = d;
        }
        return best;
    }

    static void put_on(const OnEdge& on, const std::array<int, 3>& nodes, PlacedSide& s) {
        s.on = on;
        if (s.from != nodes[0]) std::swap(s.on.from, s.on.to);
    }

    /// The face of every element: elements that no boundary parts lie in one, and an edge tells what is beside it.
    void find_faces() {
        out_.face.assign(mesh_.element_count(), -1);
        std::vector<std::int32_t> open;
        for (const PlacedSide& s : out_.sides) {
            if (s.on.edge < 0) continue;
            const PartEdge& edge = part_.edge(s.on.edge);
            const bool along = s.along();
            const auto give = [&](std::int32_t e, int face) {
                if (e < 0 || out_.face[static_cast<std::size_t>(e)] >= 0) return;
                out_.face[static_cast<std::size_t>(e)] = face;
                open.push_back(e);
            };
            give(s.left, along ? edge.left : edge.right);
            give(s.right, along ? edge.right : edge.left);
        }
        while (!open.empty()) {
            const auto e = static_cast<std::size_t>(open.back());
            open.pop_back();
            for (std::size_t i = 0; i < static_cast<std::size_t>(side_count(mesh_.kinds[e])); ++i) {
                const PlacedSide& s = out_.side(mesh_, e, i);
                if (s.on.edge >= 0) continue;
                for (const auto other : {s.left, s.right}) {
                    if (other < 0 || out_.face[static_cast<std::size_t>(other)] >= 0) continue;
                    out_.face[static_cast<std::size_t>(other)] = out_.face[e];
                    open.push_back(other);
                }
            }
        }
    }

    /// Regions of the mesh and the part agree.
    void check_regions() const {
        std::vector<int> region;
        for (const auto& name : mesh_.region_names) {
            const auto found = std::find(part_.regions.begin(), part_.regions.end(), name);
            if (found == part_.regions.end())
                throw InputError(fmt::format("the mesh has a region \"{}\", but the part has not", name), {},
                                 "use the study that the mesh was made from");
            region.push_back(static_cast<int>(found - part_.regions.begin()));
        }
        for (std::size_t e = 0; e < out_.face.size(); ++e)
            if (out_.face[e] < 0 || part_.faces[static_cast<std::size_t>(out_.face[e])].region !=
                                        region[static_cast<std::size_t>(mesh_.region[e])])
                disagree(mesh_, e);
    }

    [[nodiscard]] const Vec2& node(std::int32_t n) const { return mesh_.nodes[static_cast<std::size_t>(n)]; }

    const Part& part_;
    const Mesh& mesh_;
    PlacedMesh out_;
};

}  // namespace

const PlacedSide* PlacedMesh::between(std::int32_t a, std::int32_t b) const {
    const std::pair<std::int32_t, std::int32_t> corners = std::minmax(a, b);
    const auto found = std::lower_bound(sides.begin(), sides.end(), corners,
                                        [](const PlacedSide& s, const auto& c) { return s.corners() < c; });
    return found != sides.end() && found->corners() == corners ? &*found : nullptr;
}

PlacedMesh place_on_part(const Part& part, const Mesh& mesh) {
    return Placing(part, mesh).run();
}

BoundarySide side_on_part(const Mesh& mesh, const PlacedMesh& placed, const BoundarySide& side) {
    const PlacedSide& s =
        placed.side(mesh, static_cast<std::size_t>(side.element), static_cast<std::size_t>(side.side));
    BoundarySide out = side;
    out.edge = s.on.edge;
    const std::int32_t owner = s.inner() ? (s.along() ? s.left : s.right) : s.left;
    if (owner == side.element) return out;
    out.element = owner;
    std::swap(out.nodes[0], out.nodes[1]);
    const auto nodes = mesh.element(static_cast<std::size_t>(owner));
    out.side = static_cast<int>(std::find(nodes.begin(), nodes.end(), out.nodes[0]) - nodes.begin());
    return out;
}

Mesh laid_on_part(const Part& part, Mesh mesh) {
    take_regions(part, mesh);
    const PlacedMesh placed = place_on_part(part, mesh);
    std::vector<BoundarySide> boundary;
    for (const auto& b : placed.boundary) boundary.push_back(side_on_part(mesh, placed, b));
    mesh.boundary = std::move(boundary);
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        mesh.region[e] = part.faces[static_cast<std::size_t>(placed.face[e])].region;
    mesh.region_names = part.regions;
    mesh.boundary_names = part.boundary_names;
    mesh.names_of_edge = names_of_sides(part.edges);
    mesh.points.clear();
    const double same = same_point_share * part.box.diagonal();
    for (const auto& p : part.points) {
        const Vec2& at = part.vertex(p.vertex);
        for (std::size_t n = 0; n < mesh.nodes.size(); ++n)
            if (distance(mesh.nodes[n], at) <= same) {
                mesh.points.push_back({p.name, static_cast<int>(n)});
                break;
            }
    }
    number_slots(mesh, mesh.nodes.size());
    return mesh;
}

void take_regions(const Part& part, Mesh& mesh) {
    if (mesh.region_names.size() != 1 || mesh.region_names == part.regions) return;
    mesh.region_names = part.regions;
    const FaceFinder finder(part);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const int face = finder.at(mesh.centre_of(e));
        if (face < 0) disagree(mesh, e);
        mesh.region[e] = part.faces[static_cast<std::size_t>(face)].region;
    }
    number_slots(mesh, mesh.nodes.size());
}

}  // namespace dotsift
