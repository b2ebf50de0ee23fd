#pragma once
// Whether two curves meet, found by halving until their boxes part.

#include <optional>
#include <vector>

#include "part/curve.hpp"

namespace dotsift {

/// A curve cut into stretches with a bound on how far each bows from its chord.
class Stretches {
  public:
    explicit Stretches(const Curve& curve);
    struct Stretch {
        double from, to;
        double bend;  ///< bound of the second derivative's magnitude
    };
    [[nodiscard]] const Curve& curve() const { return *curve_; }
    [[nodiscard]] const std::vector<Stretch>& list() const { return list_; }

  private:
    const Curve* curve_;
    std::vector<Stretch> list_;
};

/// A place where the curves come nearer to each other than the tolerance, other than an end that both have.
std::optional<Vec2> contact(const Stretches& a, const Stretches& b, double tolerance);

/// A place where a curve meets itself, other than the joint of a closed one.
std::optional<Vec2> self_contact(const Curve& curve, double tolerance);

/// Pairs of boxes that overlap when each is grown by `margin`; (i, j) with i < j, in order.
std::vector<std::pair<int, int>> overlapping_boxes(const std::vector<Box2>& boxes, double margin);

}  // namespace dotsift
