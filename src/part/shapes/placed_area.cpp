#include "part/shapes/placed_area.hpp"

#include <algorithm>

#include "part/shapes/placement.hpp"
#include "part/shapes/shapes.hpp"
#include "study/diagnostics.hpp"

namespace dotsift {

PlacedArea::PlacedArea(const ShapeSpec& shape) {
    Problems problems("");  // what is wrong with the shape was told when the study was read
    const auto edges = outline_of(shape, problems);
    for (const auto& map : copies_of(shape.placement)) {
        rays_.emplace_back();
        for (const auto& e : edges) rays_.back().add(e.curve.transformed(map), 0);
        rays_.back().prepare();
    }
}

bool PlacedArea::operator()(const Vec2& p) const {
    return std::any_of(rays_.begin(), rays_.end(), [&](const RayCaster& r) { return r.inside(p); });
}

}  // namespace dotsift
