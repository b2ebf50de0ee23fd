#pragma once
// The part as plain data: edges, faces, regions and their names. Everything after this stage refers to edges by index
// and to boundaries, regions and points by name, so names outlive meshes.

#include <string>
#include <vector>

#include "part/curve.hpp"
#include "part/part_names.hpp"

namespace dotsift {

/// Two points of a study closer than this share of the part's diagonal are meant to be the same.
inline constexpr double same_point_share = 1e-6;

struct PartEdge {
    Curve curve;                ///< runs with the material on its left; between regions, with the one that comes first
    int start = 0, end = 0;     ///< vertex indices
    int left = -1, right = -1;  ///< faces; -1: no material
    std::vector<int> names;     ///< indices into Part::boundary_names

    [[nodiscard]] bool interior() const { return left >= 0 && right >= 0; }
};

/// An edge as a loop runs along it.
struct EdgeUse {
    int edge = 0;
    bool forward = true;
};

/// A connected piece of one region.
struct PartFace {
    int region = 0;
    /// The outer loop first (anticlockwise), then holes (clockwise) and chains that end inside (there and back).
    std::vector<std::vector<EdgeUse>> loops;
    std::vector<int> points;  ///< vertices inside that belong to no edge
};

/// Two edges that are divided alike, point by point.
struct EdgeTwin {
    int edge = 0, twin = 0;
    bool reversed = false;  ///< the twin runs the other way
};

struct Part : PartNames {
    std::vector<Vec2> vertices;
    std::vector<PartEdge> edges;
    std::vector<PartFace> faces;
    std::vector<EdgeTwin> twins;  ///< of periodic pairs
    Box2 box;

    [[nodiscard]] const PartEdge& edge(int e) const { return edges[static_cast<std::size_t>(e)]; }
    [[nodiscard]] const Vec2& vertex(int v) const { return vertices[static_cast<std::size_t>(v)]; }
    /// Area enclosed by the true curves.
    [[nodiscard]] double area() const;
    [[nodiscard]] double area_of_face(std::size_t face) const;
    /// Start and end of an edge in the direction of its use.
    [[nodiscard]] int start_of(const EdgeUse& u) const { return u.forward ? edge(u.edge).start : edge(u.edge).end; }
    [[nodiscard]] int end_of(const EdgeUse& u) const { return u.forward ? edge(u.edge).end : edge(u.edge).start; }
    /// The vertex at this point, to `same_point_share` of the part's size; -1: none.
    [[nodiscard]] int vertex_at(const Vec2& p) const;
    /// Edges that carry a boundary name fitting one of the patterns, in order.
    [[nodiscard]] std::vector<int> edges_named(const std::vector<std::string>& patterns) const {
        return sides_named(edges, patterns);
    }
    /// Adds a name to an edge, once.
    void name_edge(int e, const std::string& name) { add_name(name, edges[static_cast<std::size_t>(e)].names); }
    /// The face that contains a point (even-odd rule on each face's loops); -1: none. For many points: FaceFinder.
    [[nodiscard]] int face_at(const Vec2& p) const;
    /// In a face or on an edge, as near as `tolerance`.
    [[nodiscard]] bool holds(const Vec2& p, double tolerance) const;
    /// A point well inside a face.
    [[nodiscard]] Vec2 point_inside(std::size_t face) const;
    /// How an edge is called in messages: "\"bore\"" or "edge 7".
    [[nodiscard]] std::string name_of_edge(int e) const { return name_of_side(edge(e).names, "edge", e + 1); }
    void update_box();
};

}  // namespace dotsift
