#pragma once
// Pictures of a mesh of a solid and of fields on it, shaded, with what is hidden left out.

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "evidence/drawing/camera.hpp"
#include "evidence/drawing/colour_scale.hpp"
#include "evidence/drawing/view.hpp"
#include "mesh/mesh.hpp"
#include "study/quantity_spec.hpp"

namespace dotsift {

/// A place that a picture marks.
struct SolidMark {
    Vec3 at;
    std::string label;
    int colour = 0;       ///< category
    bool number = false;  ///< in a disc of its own, hollow where the place is hidden; discs keep clear of each other
};

// Shades tell the shape, but on a field colours have to be read.
inline constexpr double dim_on_body = 0.36, dim_on_field = 0.16;

struct SolidFieldPicture : ColourScale {
    std::string title, subtitle, length_unit;
    std::vector<double> slots;         ///< one value a slot of the mesh, or ...
    std::vector<double> elementwise;   ///< ... one an element
    bool sides = true;                 ///< of the elements are drawn
    std::vector<SolidMark> marks;      ///< the view is chosen so that they are seen, the first ones before others
    std::optional<Camera> camera;      ///< from where it is seen; nothing: chosen by the marks
    std::vector<Vec3> displacement;    ///< of each node, already enlarged; empty: none
    std::optional<PlaneSpec> section;  ///< what lies before it is taken away
};

/// Through a place, as near as a twentieth of the solid's size allows, square to that axis on which it cuts the most.
PlaneSpec section_through(const SolidMesh& mesh, const Vec3& place);

/// The first of the common views in which all marks are seen, or the most of them, the first ones before the others.
Camera view_of_marks(const SolidMesh& mesh, const std::vector<SolidMark>& marks);

/// The field in the colours of its scale, with the sides of elements where these can be told apart, the edges of the
/// part, and which way x, y and z go.
PictureFiles draw_solid_field(const SolidMesh& mesh, const SolidFieldPicture& picture,
                              PictureUse use = PictureUse::files);

/// A named edge of the part, or a piece of one.
struct NamedLine {
    std::string name;
    std::vector<Vec3> points;
};

/// The elements, with the named faces in colour and a legend, named points, and edges. The view is chosen so that
/// `places` are seen. With a section the inside shows without the sides of elements.
PictureFiles draw_solid_mesh(const SolidMesh& mesh, const std::string& title, const std::string& subtitle,
                             const std::string& length_unit, PictureUse use = PictureUse::files,
                             const std::vector<NamedLine>& edges = {}, const std::vector<SolidMark>& places = {},
                             const std::optional<PlaneSpec>& section = {});

/// Through the middle of a way across a wall or gap, along that way, square to the axis on which it shows best.
PlaneSpec section_along(const Vec3& from, const Vec3& to);

}  // namespace dotsift
