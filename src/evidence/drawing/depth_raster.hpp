#pragma once
// Surfaces in space drawn pixel by pixel: what is nearer hides what is behind.

#include <array>
#include <cstdint>
#include <functional>
#include <vector>

#include "base/vec.hpp"
#include "evidence/drawing/colour.hpp"

namespace dotsift {

/// Holds a colour and a depth at 3 x 3 samples a pixel over a rectangle of the canvas, each unit of which has `scale`
/// pixels. Places are (x, y) on the canvas and the distance towards the eye, in the same unit.
class DepthRaster {
  public:
    explicit DepthRaster(const Box2& box, double scale = 1);
    [[nodiscard]] const Box2& box() const { return box_; }
    [[nodiscard]] int columns() const { return columns_; }
    [[nodiscard]] int rows() const { return rows_; }

    /// Fills a triangle; `colour` is told the shares of the three corners at each sample.
    void paint(const std::array<Vec3, 3>& corners, const std::function<Colour(double second, double third)>& colour);
    /// A straight line where nothing nearer hides it, `width` wide, mixed over what is there. It shows through what is
    /// nearer by less than `bias`.
    void line(const Vec3& a, const Vec3& b, const Colour& colour, double width, double opacity, double bias);
    /// Whether something nearer hides a place.
    [[nodiscard]] bool hidden(const Vec3& at, double bias) const;

    /// Premultiplied ARGB.
    [[nodiscard]] std::vector<std::uint32_t> pixels() const;

  private:
    [[nodiscard]] Vec3 sample_of(const Vec3& at) const;

    struct Sample {
        float depth;
        float r, g, b;
    };
    Box2 box_;
    double scale_;
    int columns_, rows_;
    std::vector<Sample> samples_;  ///< of depth -infinity: nothing there
};

}  // namespace dotsift
