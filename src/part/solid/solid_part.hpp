#pragma once
// A solid as plain data, as Part is one of the plane: vertices, edges, faces with a surface, bodies of regions, names.

#include <array>
#include <string>
#include <type_traits>
#include <vector>

#include "part/part.hpp"
#include "part/solid/surface.hpp"

namespace dotsift {

struct SolidEdge {
    CurveIn<3> curve;
    int start = 0, end = 0;    ///< vertex indices
    std::vector<int> names{};  ///< indices into SolidPart::edge_names
};

struct SolidFace {
    Surface surface;
    /// With the face's material on their left, seen from where the normal points to. Empty: the surface closes itself.
    std::vector<std::vector<EdgeUse>> loops;
    int behind = -1, before = -1;  ///< bodies behind and before the normal; -1: no material
    std::vector<int> names{};      ///< indices into PartNames::boundary_names
    std::vector<int> marks{};      ///< vertices inside it, on no edge

    [[nodiscard]] bool interior() const { return behind >= 0 && before >= 0; }
};

/// A connected piece of one region.
struct SolidBody {
    int region = 0;
};

/// Area and centroid of faces, or volume and centroid of bodies, in the study's unit.
struct SolidMeasures {
    double size = 0;
    Vec3 centroid;
};

struct SolidPart : PartNames {
    std::vector<Vec3> vertices;
    std::vector<SolidEdge> edges;
    std::vector<SolidFace> faces;
    std::vector<SolidBody> bodies;
    std::vector<std::string> edge_names;
    Box<3> box;

    [[nodiscard]] const SolidEdge& edge(int e) const { return edges[static_cast<std::size_t>(e)]; }
    [[nodiscard]] const SolidFace& face(int f) const { return faces[static_cast<std::size_t>(f)]; }
    /// Faces that carry a boundary name fitting one of the patterns, in order.
    [[nodiscard]] std::vector<int> faces_named(const std::vector<std::string>& patterns) const {
        return sides_named(faces, patterns);
    }
    /// Edges that carry a name fitting one of the patterns, in order.
    [[nodiscard]] std::vector<int> edges_named(const std::vector<std::string>& patterns) const;
    /// How a face is called in messages: "\"bore\"" or "face 7".
    [[nodiscard]] std::string name_of_face(int f) const { return name_of_side(face(f).names, "face", f + 1); }
    /// And an edge.
    [[nodiscard]] std::string name_of_edge(int e) const;
};

/// A part by the dimension of its space. What does not ask for more than names, vertices and the box is the same of
/// both.
template <int D>
using PartIn = std::conditional_t<D == 2, Part, SolidPart>;

SolidMeasures measure_face(const SolidPart& part, std::size_t face);
/// By Gauss's theorem, over the faces that bound it.
SolidMeasures measure_body(const SolidPart& part, std::size_t body);
/// Of all bodies together.
SolidMeasures measure(const SolidPart& part);

}  // namespace dotsift
