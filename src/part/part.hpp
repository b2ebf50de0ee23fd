#pragma once
// The part as plain data: edges, loops, faces and their names. Everything after this stage refers to edges by index
// and to boundaries by name, so names outlive meshes.

#include <string>
#include <vector>

#include "part/curve.hpp"
#include "study/study.hpp"

namespace dotsift {

struct PartEdge {
    Curve curve;             ///< run with the material on its left
    int start = 0, end = 0;  ///< vertex indices
    int face = 0;
    std::vector<int> names;  ///< indices into Part::boundary_names
};

/// A connected piece of the part.
struct PartFace {
    std::vector<std::vector<int>> loops;  ///< edges in order; outer loop first (anticlockwise), then holes (clockwise)
};

struct Part {
    std::vector<Vec2> vertices;
    std::vector<PartEdge> edges;
    std::vector<PartFace> faces;
    std::vector<std::string> boundary_names;
    Box2 box;

    /// Area enclosed by the true curves.
    [[nodiscard]] double area() const;
    /// The corner of the outline at this point, to a millionth of the part's size; -1: none.
    [[nodiscard]] int vertex_at(const Vec2& p) const;
    /// Edges that carry a boundary name fitting one of the patterns, in order.
    [[nodiscard]] std::vector<int> edges_named(const std::vector<std::string>& patterns) const;
};

/// Builds the part of a study. Faults go into `problems`; the result is then not to be used.
Part build_part(const Study& study, Problems& problems);

}  // namespace dotsift
