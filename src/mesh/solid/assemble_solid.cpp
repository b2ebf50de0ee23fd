#include "mesh/solid/assemble_solid.hpp"

#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "mesh/elements/element.hpp"
#include "mesh/elements/jacobian_bound.hpp"
#include "mesh/end_normals.hpp"
#include "mesh/order.hpp"

namespace dotsift {

namespace {

constexpr double least_jacobian_share = 0.1;  // of the mean, over each element
constexpr int halvings = 60;

/// The point of the part's edge that is equally far from both ends of a piece of it.
Vec3 middle_of(const SolidPart& part, const EdgePiece& piece) {
    const auto& curve = part.edge(piece.edge).curve;
    const Vec3 a = curve.point(piece.t_from), b = curve.point(piece.t_to);
    if (curve.straight()) return (a + b) * 0.5;
    double low = piece.t_from, high = piece.t_to;
    for (int k = 0; k < halvings; ++k) {
        const double t = 0.5 * (low + high);
        const Vec3 p = curve.point(t);
        (distance(p, a) < distance(p, b) ? low : high) = t;
    }
    return curve.point(0.5 * (low + high));
}

Vec3 on_surface(const Surface& surface, const Vec3& near) {
    return surface.kind() == Surface::Kind::plane ? near : surface.point(surface.project(near));
}

class Assembly {
  public:
    Assembly(const SolidPart& part, const BodyMesh& bodies, const std::vector<EdgePiece>& pieces,
             const std::vector<std::int32_t>& point, int degree)
        : part_(part), bodies_(bodies), degree_(degree), node_of_(bodies.points.size(), -1) {
        if (degree == 1) return;
        for (const auto& e : bodies.elements)
            for (std::size_t i = 0; i < 4; ++i) {
                if (e.wall[i] < 0) continue;
                const auto& c = corners_of_side[i];
                for (std::size_t k = 0; k < 3; ++k) face_.emplace(pair_of(e.v[c[k]], e.v[c[(k + 1) % 3]]), e.wall[i]);
            }
        for (const auto& p : pieces) {
            const std::int32_t a = point[static_cast<std::size_t>(p.from)], b = point[static_cast<std::size_t>(p.to)];
            if (a >= 0 && b >= 0) piece_.emplace(pair_of(a, b), &p);
        }
    }

    SolidMesh run(const std::vector<std::int32_t>& point) {
        const std::size_t count = bodies_.elements.size();
        std::vector<Vec3> centres;
        centres.reserve(count);
        for (std::size_t t = 0; t < count; ++t) {
            const auto c = bodies_.corners(static_cast<std::int32_t>(t));
            centres.push_back((c[0] + c[1] + c[2] + c[3]) / 4);
        }
        mesh_.kinds.assign(count, of_degree(ElementKind::tetrahedron4, degree_));
        mesh_.row.assign(count, 0);
        for (const int t : hilbert_order(centres)) add_element(bodies_.element(t));
        mesh_.first.push_back(static_cast<std::int64_t>(mesh_.connectivity.size()));
        mesh_.boundary_names = part_.boundary_names;
        mesh_.region_names = part_.regions;
        for (const auto& p : part_.points) {
            const std::int32_t at = point[static_cast<std::size_t>(p.vertex)];
            if (at >= 0) mesh_.points.push_back({p.name, node_of_[static_cast<std::size_t>(at)]});
        }
        connect(mesh_);
        mesh_.names_of_edge = names_of_sides(part_.faces);
        mesh_.end_normals = end_normals(part_, mesh_);
        return std::move(mesh_);
    }

  private:
    std::int32_t new_node(const Vec3& x) {
        mesh_.nodes.push_back(x);
        return static_cast<std::int32_t>(mesh_.nodes.size() - 1);
    }

    void add_element(const BodyMesh::Element& e) {
        const auto element = static_cast<int>(mesh_.first.size());
        mesh_.first.push_back(static_cast<std::int64_t>(mesh_.connectivity.size()));
        mesh_.region.push_back(part_.bodies[static_cast<std::size_t>(e.body)].region);
        std::vector<std::int32_t> nodes;
        for (const auto p : e.v) {
            auto& node = node_of_[static_cast<std::size_t>(p)];
            if (node < 0) node = new_node(bodies_.point(p));
            nodes.push_back(node);
        }
        const ElementKind kind = of_degree(ElementKind::tetrahedron4, degree_);
        const KindTable& table = table_of(kind);
        for (std::size_t k = 0; degree_ == 2 && k < table.edges; ++k) {
            const std::int32_t a = e.v[table.edge[k][0]], b = e.v[table.edge[k][1]];
            const auto [at, added] = middle_.try_emplace(pair_of(a, b), -1);
            if (added) at->second = new_node(middle(a, b));
            nodes.push_back(at->second);
        }
        mesh_.connectivity.insert(mesh_.connectivity.end(), nodes.begin(), nodes.end());
        for (std::size_t i = 0; i < table.sides; ++i) {
            // The corner that the side has not is opposite to it.
            const auto& side = table.side[i];
            std::size_t opposite = 6;
            for (std::size_t k = 0; k < 3; ++k) opposite -= side[k];
            if (e.wall[opposite] >= 0) add_side(e, element, static_cast<int>(i), opposite, nodes);
        }
    }

    [[nodiscard]] Vec3 middle(std::int32_t a, std::int32_t b) const {
        const auto pair = pair_of(a, b);
        if (const auto piece = piece_.find(pair); piece != piece_.end()) return middle_of(part_, *piece->second);
        const Vec3 half = (bodies_.point(a) + bodies_.point(b)) * 0.5;
        const auto face = face_.find(pair);
        return face == face_.end() ? half : on_surface(part_.face(face->second).surface, half);
    }

    /// Of a face with material on both sides the element behind it has the side.
    void add_side(const BodyMesh::Element& e, int element, int side, std::size_t opposite,
                  const std::vector<std::int32_t>& nodes) {
        const SolidFace& face = part_.face(e.wall[opposite]);
        const LocalNodes<most_side_nodes>& local = side_nodes(of_degree(ElementKind::tetrahedron4, degree_), side);
        const auto at = [&](std::size_t k) { return mesh_.nodes[static_cast<std::size_t>(nodes[local[k]])]; };
        const Vec3 out = cross(at(1) - at(0), at(2) - at(0));
        const Vec3 true_normal = face.surface.normal(face.surface.project((at(0) + at(1) + at(2)) / 3));
        const bool behind = dot(out, true_normal) > 0;
        if (e.n[opposite] >= 0 && !behind) return;
        mesh_.boundary.push_back({{-1, -1, -1}, element, side, e.wall[opposite]});
    }

    const SolidPart& part_;
    const BodyMesh& bodies_;
    int degree_;
    SolidMesh mesh_;
    std::vector<std::int32_t> node_of_;
    std::unordered_map<std::uint64_t, std::int32_t> face_, middle_;
    std::unordered_map<std::uint64_t, const EdgePiece*> piece_;
};

}  // namespace

SolidMesh assemble_solid(const SolidPart& part, const BodyMesh& bodies, const std::vector<EdgePiece>& pieces,
                         const std::vector<std::int32_t>& point, int degree) {
    return Assembly(part, bodies, pieces, point, degree).run(point);
}

namespace {

/// The edges of an element that bends too far, if it does: act(edge of its kind, end, end, middle node).
template <class Act>
void each_bent_edge(const SolidMesh& mesh, std::size_t e, Act act) {
    const auto positions = mesh.positions(e);
    const auto nodes = std::span(positions).first(static_cast<std::size_t>(node_count(mesh.kinds[e])));
    if (polynomial_degree(mesh.kinds[e]) == 1 || is_straight(mesh.kinds[e], nodes)) return;
    if (jacobian_bound(mesh.kinds[e], nodes) >= least_jacobian_share) return;
    const KindTable& table = table_of(mesh.kinds[e]);
    for (std::size_t k = 0; k < table.edges; ++k) {
        const Vec3 &a = positions[table.edge[k][0]], &b = positions[table.edge[k][1]];
        if (norm((a + b) * 0.5 - positions[table.corners + k]) > 0) act(a, b, mesh.element(e)[table.corners + k]);
    }
}

}  // namespace

void find_bent(const SolidPart& part, const SolidMesh& mesh, CoarsePlaces& coarse) {
    std::vector<int> face(mesh.element_count(), -1);
    for (const auto& side : mesh.boundary) face[static_cast<std::size_t>(side.element)] = side.edge;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        each_bent_edge(mesh, e, [&](const Vec3& a, const Vec3& b, std::int32_t) {
            coarse.add(a, b, "the faces bend too much within one element",
                       face[e] < 0 ? "the inside" : part.name_of_face(face[e]));
        });
}

std::size_t straighten_bent(SolidMesh& mesh, Vec3& at) {
    constexpr int most_rounds_of_neighbours = 8;
    std::size_t count = 0;
    for (int round = 0; round < most_rounds_of_neighbours; ++round) {
        const std::size_t before = count;
        for (std::size_t e = 0; e < mesh.element_count(); ++e)
            each_bent_edge(mesh, e, [&](const Vec3& a, const Vec3& b, std::int32_t middle) {
                at = mesh.nodes[static_cast<std::size_t>(middle)] = (a + b) * 0.5;
                ++count;
            });
        if (count == before) break;
    }
    return count;
}

}  // namespace dotsift
