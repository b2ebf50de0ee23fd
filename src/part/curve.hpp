#pragma once
// Plane curves of a part's outline, evaluated in own code.

#include "base/vec.hpp"

namespace dotsift {

/// A straight line or an arc of an ellipse (a circle is one with equal radii), run from t = 0 to t = 1.
/// The ends are stored and returned exactly, so that neighbouring curves meet bit for bit.
class Curve {
  public:
    enum class Kind { line, arc };

    static Curve line(const Vec2& start, const Vec2& end);
    /// The points centre + a cos(phi) + b sin(phi) for phi from `from` to `to`; a and b are at right angles.
    static Curve arc(const Vec2& centre, const Vec2& a, const Vec2& b, double from, double to);
    /// The piece of this curve's carrier (whole line or whole ellipse) through five points in order.
    [[nodiscard]] Curve piece(const Vec2& start, const Vec2& quarter, const Vec2& middle, const Vec2& three_quarters,
                              const Vec2& end) const;

    [[nodiscard]] Kind kind() const { return kind_; }
    [[nodiscard]] const Vec2& start() const { return start_; }
    [[nodiscard]] const Vec2& end() const { return end_; }
    [[nodiscard]] bool closed() const { return start_ == end_; }
    void set_ends(const Vec2& start, const Vec2& end);

    [[nodiscard]] Vec2 point(double t) const;
    /// d point / d t.
    [[nodiscard]] Vec2 derivative(double t) const;
    /// Radius of curvature; infinity on a line.
    [[nodiscard]] double curvature_radius(double t) const;
    [[nodiscard]] double length() const;
    /// Angle swept in the parameter of the ellipse, signed; 0 for a line.
    [[nodiscard]] double sweep() const { return kind_ == Kind::line ? 0.0 : to_ - from_; }
    /// Contribution to twice the enclosed area: the integral of x dy - y dx.
    [[nodiscard]] double twice_area() const;
    [[nodiscard]] Box2 box() const;
    /// Of an arc: centre, the two half axes, and the parameter at both ends.
    [[nodiscard]] const Vec2& centre() const { return centre_; }
    [[nodiscard]] const Vec2& axis_a() const { return a_; }
    [[nodiscard]] const Vec2& axis_b() const { return b_; }
    [[nodiscard]] double from_angle() const { return from_; }
    [[nodiscard]] double to_angle() const { return to_; }
    [[nodiscard]] Curve reversed() const;

  private:
    [[nodiscard]] double angle_of(const Vec2& p) const;

    Kind kind_ = Kind::line;
    Vec2 start_, end_;
    Vec2 centre_, a_, b_;
    double from_ = 0, to_ = 0;
};

}  // namespace dotsift
