#pragma once
// Plane curves of a part's outline, evaluated in own code.

#include <memory>
#include <optional>
#include <vector>

#include "base/vec.hpp"
#include "part/nurbs.hpp"

namespace dotsift {

/// x -> column_x * x[0] + column_y * x[1] + shift.
struct Affine {
    Vec2 column_x{{1, 0}}, column_y{{0, 1}}, shift{};

    [[nodiscard]] Vec2 turned(const Vec2& d) const { return column_x * d[0] + column_y * d[1]; }
    [[nodiscard]] Vec2 operator()(const Vec2& p) const { return turned(p) + shift; }
    /// < 0 where left and right change places.
    [[nodiscard]] double determinant() const { return cross(column_x, column_y); }
    /// First `inner`, then this.
    [[nodiscard]] Affine after(const Affine& inner) const;

    static Affine move(const Vec2& by);
    static Affine rotation(double angle, const Vec2& about);
    /// Mirrors at the line through `point` along `along`.
    static Affine mirror(const Vec2& point, const Vec2& along);
};

/// A straight line, an arc of an ellipse (a circle is one with equal radii), a piece of a rational B-spline, or a chain
/// of these that is meshed as one; run from t = 0 to t = 1.
/// The ends are stored and returned exactly, so that neighbouring curves meet bit for bit.
class Curve {
  public:
    enum class Kind { line, arc, spline, chain };

    static Curve line(const Vec2& start, const Vec2& end);
    /// The points centre + a cos(phi) + b sin(phi) for phi from `from` to `to`; a and b are at right angles.
    static Curve arc(const Vec2& centre, const Vec2& a, const Vec2& b, double from, double to);
    /// Parameters from `from` to `to`, in either direction.
    static Curve spline(std::shared_ptr<const Nurbs> nurbs, double from, double to);
    /// Curves that follow each other; t runs evenly with their length.
    static Curve chain(std::vector<Curve> links);

    /// The piece between two parameters, run from the first to the second.
    [[nodiscard]] Curve piece(double from, double to) const;
    /// Both as one curve, if b goes on where a ends, on the same line, ellipse or spline.
    static std::optional<Curve> joined(const Curve& a, const Curve& b);
    [[nodiscard]] Curve transformed(const Affine& map) const;

    [[nodiscard]] Kind kind() const { return kind_; }
    [[nodiscard]] bool straight() const { return kind_ == Kind::line; }
    [[nodiscard]] const Vec2& start() const { return start_; }
    [[nodiscard]] const Vec2& end() const { return end_; }
    [[nodiscard]] bool closed() const { return start_ == end_; }
    void set_ends(const Vec2& start, const Vec2& end);

    [[nodiscard]] Vec2 point(double t) const;
    /// d point / d t.
    [[nodiscard]] Vec2 derivative(double t) const;
    /// Second derivative by t.
    [[nodiscard]] Vec2 second_derivative(double t) const;
    /// Radius of curvature; infinity on a line.
    [[nodiscard]] double curvature_radius(double t) const;
    /// Angle by which the tangent turns from start to end, every bend counted positive; 0 on a line.
    [[nodiscard]] double turning() const;
    [[nodiscard]] double length() const;
    /// Contribution to twice the enclosed area: the integral of x dy - y dx about a point. The nearer that is, the more
    /// digits the sum over a closed outline has.
    [[nodiscard]] double twice_area(const Vec2& about) const;
    [[nodiscard]] Box2 box() const;
    /// The parameter of the nearest point.
    [[nodiscard]] double project(const Vec2& p) const;
    /// Parameters, from 0 to 1, between which the curve is smooth and turns by at most about a quarter circle.
    [[nodiscard]] std::vector<double> smooth_pieces() const;
    /// Parameters inside (0, 1) at which the coordinate along an axis has an extreme.
    [[nodiscard]] std::vector<double> extremes(std::size_t axis) const;
    [[nodiscard]] Curve reversed() const;

    /// Of an arc: centre, the two half axes, and the parameter at both ends. Of a spline: the latter.
    [[nodiscard]] const Vec2& centre() const { return centre_; }
    [[nodiscard]] const Vec2& axis_a() const { return a_; }
    [[nodiscard]] const Vec2& axis_b() const { return b_; }
    [[nodiscard]] double from_angle() const { return from_; }
    [[nodiscard]] double to_angle() const { return to_; }
    [[nodiscard]] bool circular() const;  ///< an arc with equal radii
    [[nodiscard]] const Nurbs& nurbs() const { return *nurbs_; }
    [[nodiscard]] const std::vector<Curve>& links() const { return *links_; }

  private:
    /// Of a chain: the link at t and the parameter on it, and how fast that runs with t.
    struct LinkPlace {
        const Curve* link;
        double t, speed;
    };
    [[nodiscard]] LinkPlace link_at(double t) const;

    Kind kind_ = Kind::line;
    Vec2 start_, end_;
    Vec2 centre_, a_, b_;
    double from_ = 0, to_ = 0;
    std::shared_ptr<const Nurbs> nurbs_;
    std::shared_ptr<const std::vector<Curve>> links_;
    std::shared_ptr<const std::vector<double>> joints_;  ///< share of the chain's length at the end of each link
};

/// Sum of f(t) dt over the whole curve by Gauss-Legendre quadrature with 8 points on each smooth piece.
template <class F>
double integrate(const Curve& curve, F f) {
    static constexpr double x[4] = {0.1834346424956498, 0.5255324099163290, 0.7966664774136267, 0.9602898564975363};
    static constexpr double w[4] = {0.3626837833783620, 0.3137066458778873, 0.2223810344533745, 0.1012285362903763};
    const auto pieces = curve.smooth_pieces();
    double sum = 0;
    for (std::size_t i = 1; i < pieces.size(); ++i) {
        const double middle = 0.5 * (pieces[i] + pieces[i - 1]), half = 0.5 * (pieces[i] - pieces[i - 1]);
        for (int k = 0; k < 4; ++k) sum += half * w[k] * (f(middle - half * x[k]) + f(middle + half * x[k]));
    }
    return sum;
}

}  // namespace dotsift
