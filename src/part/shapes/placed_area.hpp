#pragma once
// Whether a point lies in one of the copies of a placed shape.

#include <vector>

#include "part/classify.hpp"
#include "study/study.hpp"

namespace dotsift {

class PlacedArea {
  public:
    explicit PlacedArea(const ShapeSpec& shape);
    bool operator()(const Vec2& p) const;

  private:
    std::vector<RayCaster> rays_;  ///< of each copy
};

}  // namespace dotsift
