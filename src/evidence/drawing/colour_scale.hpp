#pragma once
// The bar that tells what the colours of a picture mean.

#include <string>

#include "evidence/drawing/canvas.hpp"

namespace dotsift {

/// Where the bar stands on a picture.
inline constexpr double scale_left = 1110;

struct ColourScale {
    std::string legend, unit;
    ColourMap map = ColourMap::depth;
    double low = 0, high = 1;  ///< the colour range
    bool clipped = false;      ///< values outside the range take the colour of its end; the legend says so
    bool logarithmic = false;  ///< colours by the logarithm; low > 0

    /// The place of a value in the range: 0 at the low end, 1 at the high one.
    [[nodiscard]] double position(double value) const;
};

void draw_scale(Canvas& canvas, const ColourScale& scale);

}  // namespace dotsift
