#pragma once
// Pictures of a mesh and of fields on it, 1280 x 800.

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "evidence/canvas.hpp"
#include "evidence/colour_scale.hpp"
#include "evidence/view.hpp"
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
    std::optional<Circle> zoom;  ///< only what lies in it, as large as the picture allows
};

/// Every element in a colour of its own, with their sides and the outline; made once, drawn in every format.
class ElementColours {
  public:
    ElementColours(const Mesh& mesh, const View& view, const Box2& area,
                   const std::function<Colour(std::size_t element)>& colour);
    void draw(Canvas& canvas);

  private:
    Box2 box_;
    int columns_ = 0, rows_ = 0;
    std::vector<std::uint32_t> pixels_;
    std::vector<std::vector<Vec2>> sides_, outline_;
    double median_ = 0;  ///< length of a side in pixels
};

PictureFiles draw_field(const Mesh& mesh, const FieldPicture& picture);

/// The elements, with the named boundaries in colour and a legend.
PictureFiles draw_mesh(const Mesh& mesh, const std::string& title, const std::string& subtitle,
                       const std::string& length_unit);

}  // namespace dotsift
