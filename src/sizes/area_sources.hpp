#pragma once
// A size over an area -> size sources that cover it.

#include <functional>
#include <vector>

#include "part/curve.hpp"
#include "sizes/size_field.hpp"

namespace dotsift {

/// An area, inside its rim by the even-odd rule, or without a rim a whole box; and the size wanted at each place.
struct SizeArea {
    std::vector<Curve> rim;
    Box2 box;
    std::function<double(const Vec2&)> size;  ///< must be > 0
    bool varies = false;                      ///< the size is not the same everywhere
    int rule = -1;
};

/// Triangles with linear sizes. They are halved until the size is linear within five percent, and at the rim until they
/// are half an element long; those at the rim are all kept, so that the whole area is covered.
void add_area_sources(const SizeArea& area, std::vector<SizeSource>& sources);

}  // namespace dotsift
