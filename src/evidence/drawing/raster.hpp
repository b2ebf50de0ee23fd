#pragma once
// A field drawn pixel by pixel: exact inside every element, and small in a file however fine the mesh is.

#include <array>
#include <cstdint>
#include <vector>

#include "evidence/drawing/colour.hpp"
#include "mesh/elements/element.hpp"

namespace dotsift {

/// Collects values at 2 x 2 samples a pixel over a rectangle of the canvas, each unit of which has `scale` pixels.
class Raster {
  public:
    explicit Raster(const Box2& box, double scale = 1);
    [[nodiscard]] const Box2& box() const { return box_; }
    [[nodiscard]] int columns() const { return columns_; }
    [[nodiscard]] int rows() const { return rows_; }

    /// Fills an element whose nodes are given in pixels; `values` belong to the nodes and are interpolated by the
    /// element's own shape functions.
    void paint(ElementKind kind, const std::array<Vec2, most_element_nodes>& positions,
               const std::array<double, most_element_nodes>& values);

    /// Premultiplied ARGB, the colour looked up for each sample.
    [[nodiscard]] std::vector<std::uint32_t> pixels(ColourMap map) const;
    /// The same, where values are numbers in a list of colours.
    [[nodiscard]] std::vector<std::uint32_t> pixels(const std::vector<Colour>& list) const;

  private:
    template <class Lookup>
    std::vector<std::uint32_t> average(Lookup colour) const;

    Box2 box_;
    double scale_;
    int columns_, rows_;
    std::vector<float> samples_;  ///< NaN: nothing there
};

}  // namespace dotsift
