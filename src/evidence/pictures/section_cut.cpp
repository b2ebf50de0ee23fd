#include "evidence/pictures/section_cut.hpp"

#include <algorithm>

namespace dotsift {

namespace {

using Four = std::array<std::uint8_t, 4>;

/// A tetrahedron of 10 nodes, whose middles lie on the edges 01, 12, 20, 03, 13, 23 or in any other order that
/// the table of kinds tells, as eight: those at its corners, and four round a line through the middle.
std::vector<Four> pieces_of(ElementKind kind) {
    const auto& t = table_of(kind);
    if (t.nodes == 4) return {{0, 1, 2, 3}};
    const auto middle = [&](std::uint8_t a, std::uint8_t b) {
        for (std::uint8_t n = 4; n < t.nodes; ++n) {
            const auto& of = t.corners_of[n];
            if (of.size() == 2 && std::min(of[0], of[1]) == std::min(a, b) && std::max(of[0], of[1]) == std::max(a, b))
                return n;
        }
        return std::uint8_t{0};
    };
    const auto m01 = middle(0, 1), m12 = middle(1, 2), m02 = middle(0, 2), m03 = middle(0, 3), m13 = middle(1, 3),
               m23 = middle(2, 3);
    return {{0, m01, m02, m03},   {m01, 1, m12, m13},   {m02, m12, 2, m23},   {m03, m13, m23, 3},
            {m01, m02, m03, m13}, {m01, m12, m02, m13}, {m02, m03, m13, m23}, {m02, m13, m12, m23}};
}

/// The side of the element that holds three of its nodes; -1: none.
int side_of(ElementKind kind, const std::array<std::uint8_t, 3>& nodes) {
    for (std::size_t s = 0; s < table_of(kind).sides; ++s) {
        const auto& on = side_nodes(kind, static_cast<int>(s));
        if (std::all_of(nodes.begin(), nodes.end(),
                        [&](std::uint8_t n) { return std::find(on.begin(), on.end(), n) != on.end(); }))
            return static_cast<int>(s);
    }
    return -1;
}

class Cutter {
  public:
    Cutter(const SolidMesh& mesh, const std::vector<double>& distances) : mesh_(mesh), distances_(distances) {}

    void cut(std::size_t e, const Four& piece) {
        const auto nodes = mesh_.element(e);
        std::array<double, 4> d{};
        std::array<std::uint8_t, 4> before{}, behind{};
        std::size_t b = 0, h = 0;
        for (std::size_t k = 0; k < 4; ++k) {
            d[k] = distances_[static_cast<std::size_t>(nodes[piece[k]])];
            (d[k] > 0 ? before[b++] : behind[h++]) = static_cast<std::uint8_t>(k);
        }
        if (b == 0 || h == 0) return;
        CutPiece out;
        out.element = e;
        // In the order in which the edges that are cut follow each other: neighbours share a face of the piece.
        std::vector<std::array<std::uint8_t, 2>> edges;
        if (b == 1 || h == 1) {
            const std::uint8_t alone = b == 1 ? before[0] : behind[0];
            for (std::size_t k = 0; k < 3; ++k) edges.push_back({alone, b == 1 ? behind[k] : before[k]});
        } else {
            edges = {{before[0], behind[0]}, {before[0], behind[1]}, {before[1], behind[1]}, {before[1], behind[0]}};
        }
        out.corners = static_cast<int>(edges.size());
        for (std::size_t k = 0; k < edges.size(); ++k) {
            const auto [i, j] = edges[k];
            out.corner[k] = {piece[i], piece[j], d[i] / (d[i] - d[j])};
            const auto& next = edges[(k + 1) % edges.size()];
            const std::uint8_t third = next[0] == i || next[0] == j ? next[1] : next[0];
            out.side[k] = side_of(mesh_.kinds[e], {piece[i], piece[j], piece[third]});
        }
        pieces.push_back(out);
    }

    std::vector<CutPiece> pieces;

  private:
    const SolidMesh& mesh_;
    const std::vector<double>& distances_;
};

}  // namespace

std::vector<double> distances_from(const PlaneSpec& plane, const std::vector<Vec3>& places) {
    const Vec3 n = plane.normal / norm(plane.normal);
    std::vector<double> out;
    out.reserve(places.size());
    for (const Vec3& p : places) out.push_back(dot(n, p - plane.at));
    return out;
}

std::vector<CutPiece> cut_elements(const SolidMesh& mesh, const std::vector<double>& distances) {
    Cutter cutter(mesh, distances);
    std::array<std::vector<Four>, 2> of_degree;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const ElementKind kind = mesh.kinds[e];
        if (corner_count(kind) != 4) continue;
        auto& pieces = of_degree[polynomial_degree(kind) > 1 ? 1 : 0];
        if (pieces.empty()) pieces = pieces_of(kind);
        bool before = false, behind = false;
        for (const auto n : mesh.element(e)) (distances[static_cast<std::size_t>(n)] > 0 ? before : behind) = true;
        if (!before || !behind) continue;
        for (const Four& piece : pieces) cutter.cut(e, piece);
    }
    return std::move(cutter.pieces);
}

double cut_area(const SolidMesh& mesh, const PlaneSpec& plane) {
    double sum = 0;
    for (const CutPiece& piece : cut_elements(mesh, distances_from(plane, mesh.nodes))) {
        std::array<Vec3, 4> p;
        for (int k = 0; k < piece.corners; ++k) {
            const CutCorner& c = piece.corner[static_cast<std::size_t>(k)];
            const auto at = [&](std::uint8_t n) {
                return mesh.nodes[static_cast<std::size_t>(mesh.element(piece.element)[n])];
            };
            p[static_cast<std::size_t>(k)] = at(c.a) + (at(c.b) - at(c.a)) * c.share;
        }
        sum += norm(cross(p[1] - p[0], p[2] - p[0])) / 2;
        if (piece.corners == 4) sum += norm(cross(p[2] - p[0], p[3] - p[0])) / 2;
    }
    return sum;
}

}  // namespace dotsift
