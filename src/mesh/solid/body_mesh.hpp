#pragma once
// The tetrahedra of bodies, with what improvement asks of them: who is beside whom, and exchange of a few for others.

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "mesh/elements/shape.hpp"
#include "mesh/solid/surface_mesh.hpp"
#include "mesh/solid/tetrahedralisation.hpp"

namespace dotsift {

class BodyMesh {
  public:
    struct Element {
        std::array<std::int32_t, 4> v{};                   ///< points, of positive orientation; -1 in v[0]: free place
        std::array<std::int32_t, 4> n{-1, -1, -1, -1};     ///< neighbour opposite to v[i]; -1: outside
        std::array<std::int32_t, 4> wall{-1, -1, -1, -1};  ///< face of the part there; -1: none
        std::int32_t body = -1;
        [[nodiscard]] bool alive() const { return v[0] >= 0; }
        [[nodiscard]] std::size_t corner_of(std::int32_t p) const {
            return static_cast<std::size_t>(v[1] == p) + 2U * static_cast<std::size_t>(v[2] == p) +
                   3U * static_cast<std::size_t>(v[3] == p);
        }
        [[nodiscard]] bool has(std::int32_t p) const { return v[0] == p || v[1] == p || v[2] == p || v[3] == p; }
    };

    /// Bodies of a mesh with walls; the first points are those of the surface, in its order.
    BodyMesh(const Tetrahedralisation& mesh, const SurfaceMesh& surface, const std::vector<std::int32_t>& vertex);

    std::vector<Vec3> points;
    std::vector<Element> elements;
    std::size_t on_surface = 0;  ///< points before this one lie on faces

    [[nodiscard]] const Element& element(std::int32_t t) const { return elements[static_cast<std::size_t>(t)]; }
    [[nodiscard]] Element& element(std::int32_t t) { return elements[static_cast<std::size_t>(t)]; }
    [[nodiscard]] const Vec3& point(std::int32_t p) const { return points[static_cast<std::size_t>(p)]; }
    [[nodiscard]] std::array<Vec3, 4> corners(std::int32_t t) const;
    [[nodiscard]] double quality(std::int32_t t) const;
    [[nodiscard]] double quality(const std::array<std::int32_t, 4>& v) const {
        return volume_over_length(point(v[0]), point(v[1]), point(v[2]), point(v[3]));
    }

    /// The elements that have a point, also those beyond walls.
    void around(std::int32_t p, std::vector<std::int32_t>& out) const;
    /// The elements round the edge from corner a to corner b of t, one after the other, the next one beyond the side
    /// that holds ring[k + 1]; element k has the corners a, b, ring[k], ring[k + 1], of positive orientation. False if
    /// a wall stops the walk.
    bool around_edge(std::int32_t t, std::size_t a, std::size_t b, std::vector<std::int32_t>& out,
                     std::vector<std::int32_t>& ring) const;
    std::int32_t add_point(const Vec3& x) {
        points.push_back(x);
        element_of_.push_back(-1);
        return static_cast<std::int32_t>(points.size()) - 1;
    }
    /// Puts elements in the place of others that fill the same space and lie in one body, without a wall between them.
    void exchange(std::span<const std::int32_t> old, std::span<const std::array<std::int32_t, 4>> now);
    /// The elements that the last exchange made.
    [[nodiscard]] const std::vector<std::int32_t>& made() const { return made_; }

    /// Some wall of an element has another body on its other hand.
    [[nodiscard]] bool between_bodies(std::int32_t t) const {
        const Element& e = element(t);
        for (std::size_t i = 0; i < 4; ++i)
            if (e.wall[i] >= 0 && e.n[i] >= 0) return true;
        return false;
    }

    /// Takes away an element with two walls of one face, or gives it to the body beyond them: the face then passes on
    /// its other side. `on_edge(a, b)` tells which edges belong to the part. False if it cannot be.
    template <class OnEdge>
    bool hand_over(std::int32_t t, OnEdge on_edge);

    /// Drops free places and points that nothing has; returns the new number of each point, -1 if it is gone.
    std::vector<std::int32_t> compact();

  private:
    [[nodiscard]] std::size_t side_towards(std::int32_t t, std::int32_t neighbour) const;
    bool hand_over_sides(std::int32_t t, std::size_t p, std::size_t q);

    std::vector<std::int32_t> element_of_, free_, made_;
};

template <class OnEdge>
bool BodyMesh::hand_over(std::int32_t t, OnEdge on_edge) {
    const Element& e = element(t);
    for (std::size_t p = 0; p < 4; ++p)
        for (std::size_t q = p + 1; q < 4; ++q) {
            if (e.wall[p] < 0 || e.wall[p] != e.wall[q]) continue;
            std::size_t r = 0;
            while (r == p || r == q) ++r;
            const std::size_t s = 6 - p - q - r;
            // The sides opposite to p and q share the edge between r and s.
            if (e.wall[r] >= 0 || e.wall[s] >= 0 || on_edge(e.v[r], e.v[s])) continue;
            if (hand_over_sides(t, p, q)) return true;
        }
    return false;
}

}  // namespace dotsift
