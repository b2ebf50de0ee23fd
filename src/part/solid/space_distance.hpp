#pragma once
// How far away a shape of space is.

#include <vector>

#include "part/curve.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Of a box, cylinder, cone, sphere or ring, before it is placed: < 0 inside; at most the distance to its surface.
double distance_to(const SpaceShapeSpec& shape, const Vec3& p);

/// The box round it, before it is placed.
Box<3> box_round(const SpaceShapeSpec& shape);

/// Whether places lie in a copy of a shape that is no part of the part.
class PlacedVolume {
  public:
    explicit PlacedVolume(const SpaceShapeSpec& shape);
    bool operator()(const Vec3& p) const;

  private:
    SpaceShapeSpec shape_;
    std::vector<AffineIn<3>> maps_;
};

}  // namespace dotsift
