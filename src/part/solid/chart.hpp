#pragma once
// A surface laid flat so that every angle stays: what is meshed well there is meshed well in space.

#include <vector>

#include "part/solid/surface.hpp"

namespace dotsift {

/// A conformal map of a surface to a plane, where its normal points to the reader. Planes and drawn surfaces unroll
/// without stretch. Turned ones are mapped as on a sailor's chart (Mercator 1569), the distance along the profile over
/// the radius; where the profile begins or ends on the axis, about that pole, as seen from the other one
/// (stereographic), and cones unroll. Of spline surfaces it is the numerical map of Flattening,
/// and what lies over facets has it as its parameters. Lengths in the study's
/// unit, and true where `scale` is 1: at the pole, or at the mean of both ends' radii.
///
/// Throws std::invalid_argument if a profile has both its ends on the axis, and InputError if it arrives there along
/// it.
class Chart {
  public:
    explicit Chart(const Surface& surface);

    [[nodiscard]] Vec2 flat(const Vec2& parameters) const;
    [[nodiscard]] Vec2 parameters(const Vec2& flat) const;
    [[nodiscard]] Vec3 point(const Vec2& flat) const { return surface_.point(parameters(flat)); }
    /// Length in space over that in the chart, the same in every direction.
    [[nodiscard]] double scale(const Vec2& parameters) const;
    [[nodiscard]] const Surface& surface() const { return surface_; }
    [[nodiscard]] bool about_pole() const { return kind_ == Kind::pole; }

  private:
    enum class Kind { plane, drawn, sailor, pole, numerical, own };
    /// The measure along the profile, without what is infinite at a pole.
    [[nodiscard]] double density(double t) const;
    [[nodiscard]] double measure(double t) const;
    /// Where the measure has this value, at most at the profile's ends.
    [[nodiscard]] double at_measure(double value) const;
    /// From the pole.
    [[nodiscard]] double radius(double t) const;
    [[nodiscard]] double at_radius(double radius) const;
    [[nodiscard]] double from_pole(double t) const { return pole_ == 0 ? t : 1 - t; }

    Surface surface_;
    Kind kind_ = Kind::plane;
    bool even_ = false;  ///< the measure grows evenly with the parameter
    double pole_ = 0;    ///< the profile's parameter there
    double spread_ = 1;  ///< how many times the chart's angle about a pole goes into the true one
    double speed_ = 1;   ///< of the profile at the pole; of a sailor's chart the radius that is true
    std::vector<double> knots_, sums_;
    const Flattening* flattening_ = nullptr;  ///< the surface's
};

/// Follows the loops of a face over its chart, the outer one first.
class ChartedLoops {
  public:
    explicit ChartedLoops(const Chart& chart) : chart_(chart) {}
    /// Where the points of a loop lie on the chart. Each is sought beside the one before it, and a hole on that turn of
    /// the surface on which the outer loop lies.
    std::vector<Vec2> follow(const std::vector<Vec3>& points);

  private:
    const Chart& chart_;
    Box2 outer_;  ///< in the surface's parameters
};

}  // namespace dotsift
