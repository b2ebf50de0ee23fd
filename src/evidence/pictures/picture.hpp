#pragma once
// Pictures of a mesh and of fields on it, 1280 x 800.

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "evidence/drawing/canvas.hpp"
#include "evidence/drawing/colour_scale.hpp"
#include "evidence/drawing/view.hpp"
#include "mesh/mesh.hpp"

namespace dotsift {

struct Circle {
    Vec2 centre;
    double radius = 0;
};

/// What a field picture shows.
struct FieldPicture : ColourScale {
    std::string title, subtitle, length_unit;
    std::vector<double> slots;        ///< one value a slot of the mesh, or ...
    std::vector<double> elementwise;  ///< ... one an element
    bool mark_extremes = true;
    std::optional<double> largest, smallest;  ///< shown beside the marks
    Vec2 largest_at, smallest_at;
    /// Instead of the number, as of a place where there is none to believe; empty: the number.
    std::string largest_label, smallest_label;
    std::optional<Circle> zoom;                 ///< only what lies in it, as large as the picture allows
    std::optional<Box2> window;                 ///< the same of a box
    bool sides = true;                          ///< of the elements are drawn
    std::vector<std::vector<Vec2>> undeformed;  ///< lines behind the field, where the part was
};

/// Every element in a colour of its own, with their sides and the outline; made once, drawn in every format.
class ElementColours {
  public:
    ElementColours(const Mesh& mesh, const View& view, const Box2& area,
                   const std::function<Colour(std::size_t element)>& colour, double scale = 1);
    void draw(Canvas& canvas);

  private:
    Box2 box_;
    int columns_ = 0, rows_ = 0;
    std::vector<std::uint32_t> pixels_;
    std::vector<std::vector<Vec2>> sides_, outline_;
    double median_ = 0;  ///< length of a side in pixels
};

PictureFiles draw_field(const Mesh& mesh, const FieldPicture& picture, PictureUse use = PictureUse::files);

/// Each element in the colour of its category, a number into `names`, with a legend. Of these only the ones that occur.
struct CategoryPicture {
    std::string title, subtitle, legend, length_unit;
    std::vector<std::string> names;
    std::vector<int> elementwise;
};
PictureFiles draw_categories(const Mesh& mesh, const CategoryPicture& picture);

/// The mesh's boundary sides as lines in the part's coordinates.
std::vector<std::vector<Vec2>> outline_of(const Mesh& mesh);

/// The elements, with the named boundaries in colour and a legend.
PictureFiles draw_mesh(const Mesh& mesh, const std::string& title, const std::string& subtitle,
                       const std::string& length_unit, PictureUse use = PictureUse::files);

}  // namespace dotsift
