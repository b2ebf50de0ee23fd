#pragma once
// A constrained Delaunay triangulation of plane points, grown point by point.

#include <array>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

/// The corner of a triangle after corner i, and the one before it.
constexpr std::size_t next_corner(std::size_t i) {
    return i == 2 ? 0 : i + 1;
}
constexpr std::size_t corner_before(std::size_t i) {
    return i == 0 ? 2 : i - 1;
}

/// Starts as a square round everything; its four corners are the vertices 0 to 3. Exact predicates decide everything,
/// so the structure stays valid for any input. The order of insertion determines the result.
class Triangulation {
  public:
    struct Triangle {
        std::array<std::int32_t, 3> v{};                  ///< vertices, anticlockwise
        std::array<std::int32_t, 3> n{-1, -1, -1};        ///< neighbour across the edge opposite to v[i]; -1: none
        std::array<std::int32_t, 3> segment{-1, -1, -1};  ///< constraint on that edge; -1: none
        std::int32_t face = -1;                           ///< of the part; -1: outside; see mark_faces
        [[nodiscard]] bool inside() const { return face >= 0; }
    };

    explicit Triangulation(const Box2& box);

    [[nodiscard]] const std::vector<Vec2>& points() const { return points_; }
    [[nodiscard]] const std::vector<Triangle>& triangles() const { return triangles_; }
    [[nodiscard]] const Vec2& point(int v) const { return points_[static_cast<std::size_t>(v)]; }
    [[nodiscard]] const Triangle& triangle(int t) const { return triangles_[static_cast<std::size_t>(t)]; }
    /// A triangle that has this vertex.
    [[nodiscard]] int triangle_of(int v) const { return triangle_of_[static_cast<std::size_t>(v)]; }

    /// The triangle that contains p (or has it on its rim), found by walking from `start`.
    [[nodiscard]] int locate(const Vec2& p, int start) const;
    /// The same, but the walk must not cross a constraint: -1 if it would.
    [[nodiscard]] int locate_visible(const Vec2& p, int start) const;

    /// Adds a point in triangle t (from locate) and restores the Delaunay property by flips that leave constraints
    /// alone. Returns the vertex; an old one if the point is there already.
    int insert(const Vec2& p, int t);

    /// Makes a-b an edge that is never flipped. Returns false, with the vertex or the constraint that is in the way in
    /// `obstacle`, if that cannot be done without crossing.
    struct Obstacle {
        int vertex = -1;
        int segment = -1;
    };
    bool insert_segment(int a, int b, int id, Obstacle& obstacle);

    /// Gives every triangle its face. `sides(segment)` tells what lies on the left and on the right of a constraint,
    /// and from which vertex it runs. Constraints whose sides contradict each other are returned; none is good.
    struct SegmentSides {
        int from, left, right;
    };
    std::vector<int> mark_faces(const std::function<SegmentSides(int segment)>& sides);

    /// Faces that are not kept become outside.
    void keep_faces(const std::function<bool(int face)>& keep);

    /// Triangles that the last insert made or changed.
    [[nodiscard]] const std::vector<int>& changed() const { return changed_; }

    /// Moves a vertex. The caller answers for every triangle round it staying anticlockwise.
    void move(int v, const Vec2& p) { points_[static_cast<std::size_t>(v)] = p; }
    /// Restores the Delaunay property after moves that touched the triangles whose flag is set.
    void make_delaunay(const std::vector<char>& touched);
    /// Numbers the vertices from `first` on along a Hilbert curve, and the triangles by their vertices, so that what is
    /// near in the plane is near in memory.
    void renumber(int first);
    /// Room for this many vertices, so that growing never copies.
    void reserve(std::size_t vertices);

    /// Calls act(triangle, corner index of v) for each triangle round v; starts anywhere, goes round once.
    template <class Act>
    void around(int v, Act act) const;

    [[nodiscard]] static int corner_of(const Triangle& t, int v) {
        return static_cast<int>(t.v[1] == v) + 2 * static_cast<int>(t.v[2] == v);  // no branch to mispredict
    }

  private:
    [[nodiscard]] Triangle& at(int t) { return triangles_[static_cast<std::size_t>(t)]; }
    [[nodiscard]] int side_towards(int t, int neighbour) const;
    void split_triangle(int t, int v);
    void split_edge(int t, int i, int v);
    void flip(int t, int i);
    void legalise(std::vector<std::pair<int, int>>& open);
    /// The same after an insertion: star_ are the triangles round the new vertex, and only the edges opposite to it can
    /// be wrong (Lawson 1977). Leaves the star in changed_.
    void legalise_star();
    [[nodiscard]] bool is_delaunay(int t, std::size_t i) const;
    [[nodiscard]] bool find_edge(int a, int b, int& t, int& i) const;

    std::vector<Vec2> points_;
    std::vector<Triangle> triangles_;
    std::vector<int> triangle_of_;
    std::vector<int> changed_, star_;
    std::vector<std::pair<int, int>> open_;
};

template <class Act>
void Triangulation::around(int v, Act act) const {
    const int start = triangle_of(v);
    int t = start;
    do {
        const Triangle& tri = triangle(t);
        const int i = corner_of(tri, v);
        act(t, i);
        t = tri.n[static_cast<std::size_t>(i == 2 ? 0 : i + 1)];  // across the edge from v to v[i + 2]: anticlockwise
    } while (t != start && t >= 0);
    if (t >= 0) return;
    t = triangle(start).n[static_cast<std::size_t>((corner_of(triangle(start), v) + 2) % 3)];
    while (t >= 0) {  // at the square's rim: the other way round
        const Triangle& tri = triangle(t);
        const int i = corner_of(tri, v);
        act(t, i);
        t = tri.n[static_cast<std::size_t>((i + 2) % 3)];
    }
}

}  // namespace dotsift
