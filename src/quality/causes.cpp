#include "quality/causes.hpp"

#include <algorithm>
#include <cmath>
#include <deque>
#include <numbers>
#include <span>

#include "part/shapes/corners.hpp"

namespace dotsift {

namespace {

constexpr double sharp = 40;  // degrees: at a corner or edge like that no element can be much better

/// For each corner those at the other ends of its sides.
std::vector<std::vector<std::int32_t>> corner_neighbours(const Mesh& mesh) {
    std::vector<std::vector<std::int32_t>> out(mesh.nodes.size());
    for (std::size_t k = 0; k < mesh.sides.count(); ++k) {
        const ElementSide& side = mesh.sides.beside(k)[0];
        const auto e = static_cast<std::size_t>(side.element);
        const auto local = side_nodes(mesh.kinds[e], side.side);
        const auto a = mesh.element(e)[local[0]], b = mesh.element(e)[local[1]];
        out[static_cast<std::size_t>(a)].push_back(b);
        out[static_cast<std::size_t>(b)].push_back(a);
    }
    return out;
}

/// The fewest element sides from the boundary at one end of a narrow place to the other.
int elements_across(const Mesh& mesh, const std::vector<std::vector<std::int32_t>>& neighbours,
                    const NarrowPlace& place) {
    // From the node of edge a that is nearest to the place, until one of edge b is reached near its other end.
    std::vector<char> target(mesh.nodes.size(), 0);
    int start = -1;
    double least = INFINITY;
    for (const auto& side : mesh.boundary)
        for (std::size_t k = 0; k < 2; ++k) {
            const auto n = static_cast<std::size_t>(side.nodes[k]);
            if (side.edge == place.edge_b && distance(mesh.nodes[n], place.b) < distance(mesh.nodes[n], place.a))
                target[n] = 1;
            if (side.edge != place.edge_a) continue;
            const double d = distance(mesh.nodes[n], place.a);
            if (d >= least) continue;
            least = d;
            start = side.nodes[k];
        }
    if (start < 0) return 0;
    std::vector<int> steps(mesh.nodes.size(), -1);
    steps[static_cast<std::size_t>(start)] = 0;
    std::deque<int> open{start};
    while (!open.empty()) {
        const auto n = static_cast<std::size_t>(open.front());
        open.pop_front();
        if (target[n] && n != static_cast<std::size_t>(start)) return steps[n];
        for (const auto m : neighbours[n]) {
            if (steps[static_cast<std::size_t>(m)] >= 0) continue;
            steps[static_cast<std::size_t>(m)] = steps[n] + 1;
            open.push_back(m);
        }
    }
    return 0;
}

}  // namespace

CausesIn<2>::CausesIn(const Mesh& mesh, const Part* part) : mesh_(mesh), part_(part) {
    if (!part_) return;
    angles_ = sharpest_angles(*part_);
    narrow_ = narrow_places(*part_);
}

std::string CausesIn<2>::of(std::size_t e, Criterion measure) const {
    if (measure == Criterion::size_ratio) return "size that could not be met";
    if (mesh_.row[e] > 0) return "row of layers";
    if (!part_) return {};
    const auto p = mesh_.positions(e);
    const auto corners = std::span(p).first(static_cast<std::size_t>(corner_count(mesh_.kinds[e])));
    double longest = 0;
    for (std::size_t i = 0; i < corners.size(); ++i)
        longest = std::max(longest, distance(corners[i], corners[(i + 1) % corners.size()]));
    for (const auto& c : corners) {
        const int v = part_->vertex_at(c);
        if (v >= 0 && angles_[static_cast<std::size_t>(v)] < sharp) return "sharp corner of the part";
    }
    const Vec2 centre = mesh_.centre_of(e);
    for (const auto& edge : part_->edges)
        if (edge.curve.length() < longest / 2 &&
            std::min(distance(edge.curve.start(), centre), distance(edge.curve.end(), centre)) < longest)
            return "short edge of the part";
    for (const auto& n : narrow_)
        if (n.width() < longest * 2 && distance(nearest_on_segment(centre, n.a, n.b), centre) < longest * 2)
            return n.face >= 0 ? "narrow part" : "narrow gap";
    return {};
}

std::vector<AcrossCount> CausesIn<2>::counted_across() const {
    std::vector<AcrossCount> out;
    if (narrow_.empty()) return out;
    const auto neighbours = corner_neighbours(mesh_);
    for (const auto& n : narrow_)
        if (n.face >= 0) out.push_back({n.a, n.b, n.width(), elements_across(mesh_, neighbours, n)});
    return out;
}

CausesIn<3>::CausesIn(const SolidMesh& mesh, const SolidPart* part) : mesh_(mesh), part_(part) {
    if (!part_) return;
    const EdgeFaces faces(*part_);
    for (std::size_t e = 0; e < part_->edges.size(); ++e) {
        double least = 360;
        for (const double t : {0.1, 0.5, 0.9})
            for (const EdgeWedge& w : faces.wedges(e, t))
                if (w.body >= 0) least = std::min(least, w.angle * 180 / std::numbers::pi);
        angles_.push_back(least);
    }
    faces_at_.resize(mesh.nodes.size());
    for (const auto& side : mesh.boundary)
        for (const auto local : side_nodes(mesh.kinds[static_cast<std::size_t>(side.element)], side.side)) {
            auto& list =
                faces_at_[static_cast<std::size_t>(mesh.element(static_cast<std::size_t>(side.element))[local])];
            if (std::find(list.begin(), list.end(), side.edge) == list.end()) list.push_back(side.edge);
        }
    std::vector<std::vector<std::size_t>> at_vertex(part_->vertices.size());
    for (std::size_t f = 0; f < part_->faces.size(); ++f)
        for (const auto& loop : part_->faces[f].loops)
            for (const EdgeUse& use : loop) {
                at_vertex[static_cast<std::size_t>(part_->edge(use.edge).start)].push_back(f);
                at_vertex[static_cast<std::size_t>(part_->edge(use.edge).end)].push_back(f);
            }
    meet_.assign(part_->faces.size(), std::vector<char>(part_->faces.size(), 0));
    for (const auto& list : at_vertex)
        for (const std::size_t f : list)
            for (const std::size_t g : list) meet_[f][g] = 1;
    for (std::size_t f = 0; f < part_->faces.size(); ++f) {
        double length = 0;
        for (const auto& loop : part_->faces[f].loops)
            for (const EdgeUse& use : loop) length += part_->edge(use.edge).curve.length();
        widths_.push_back(length > 0 ? 2 * measure_face(*part_, f).size / length : INFINITY);
    }
}

std::string CausesIn<3>::of(std::size_t e, Criterion measure) const {
    if (measure == Criterion::size_ratio) return "size that could not be met";
    if (!part_) return {};
    const Vec3 centre = mesh_.centre_of(e);
    const auto corners = mesh_.element(e).first(static_cast<std::size_t>(corner_count(mesh_.kinds[e])));
    double size = 0;  // its longest edge
    for (const auto a : corners)
        for (const auto b : corners)
            size = std::max(
                size, distance(mesh_.nodes[static_cast<std::size_t>(a)], mesh_.nodes[static_cast<std::size_t>(b)]));
    for (std::size_t k = 0; k < part_->edges.size(); ++k) {
        const auto& curve = part_->edges[k].curve;
        if (curve.box().distance_to(centre) > size) continue;
        if (distance(curve.point(curve.project(centre)), centre) > size) continue;
        if (angles_[k] < sharp) return "sharp edge of the part";
        if (curve.length() < size / 2) return "short edge of the part";
    }
    for (const auto& side : mesh_.boundary)
        if (static_cast<std::size_t>(side.element) == e && widths_[static_cast<std::size_t>(side.edge)] < size)
            return "narrow face of the part";
    for (const auto a : corners)
        for (const auto b : corners)
            for (const int f : faces_at_[static_cast<std::size_t>(a)])
                for (const int g : faces_at_[static_cast<std::size_t>(b)])
                    if (!meet_[static_cast<std::size_t>(f)][static_cast<std::size_t>(g)])
                        return "thin wall of the part";
    return {};
}

}  // namespace dotsift
