#pragma once
// Which face of a part holds a point, for many points.

#include <vector>

#include "part/classify.hpp"
#include "part/part.hpp"

namespace dotsift {

/// The part must outlive it.
class FaceFinder {
  public:
    explicit FaceFinder(const Part& part);
    /// The face that contains the point; -1: none.
    [[nodiscard]] int at(const Vec2& p) const;
    /// The point lies in a face, or not further than `tolerance` from an edge.
    [[nodiscard]] bool holds(const Vec2& p, double tolerance) const;

  private:
    const Part& part_;
    std::vector<RayCaster> rays_;  // of each face
};

/// The outline of a face, for rays; not prepared.
RayCaster rays_of(const Part& part, const PartFace& face);

}  // namespace dotsift
