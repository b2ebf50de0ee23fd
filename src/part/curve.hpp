#pragma once
// Curves of a part's edges, in the plane and in space, evaluated in own code.

#include <array>
#include <memory>
#include <optional>
#include <type_traits>
#include <vector>

#include "base/gauss.hpp"
#include "base/vec.hpp"
#include "part/nurbs.hpp"

namespace dotsift {

/// x -> column_x * x[0] + column_y * x[1] + shift.
template <int D>
struct AffineIn;
template <>
struct AffineIn<2> {
    Vec2 column_x{{1, 0}}, column_y{{0, 1}}, shift{};

    [[nodiscard]] Vec2 turned(const Vec2& d) const { return column_x * d[0] + column_y * d[1]; }
    [[nodiscard]] Vec2 operator()(const Vec2& p) const { return turned(p) + shift; }
    /// < 0 where left and right change places.
    [[nodiscard]] double determinant() const { return cross(column_x, column_y); }
    /// First `inner`, then this.
    [[nodiscard]] AffineIn after(const AffineIn& inner) const;

    static AffineIn move(const Vec2& by);
    static AffineIn rotation(double angle, const Vec2& about);
    /// Mirrors at the line through `point` along `along`.
    static AffineIn mirror(const Vec2& point, const Vec2& along);
};
using Affine = AffineIn<2>;

/// The same in space.
template <>
struct AffineIn<3> {
    std::array<Vec3, 3> column{{{{1, 0, 0}}, {{0, 1, 0}}, {{0, 0, 1}}}};
    Vec3 shift{};

    [[nodiscard]] Vec3 turned(const Vec3& d) const { return column[0] * d[0] + column[1] * d[1] + column[2] * d[2]; }
    [[nodiscard]] Vec3 operator()(const Vec3& p) const { return turned(p) + shift; }
    /// < 0 where left and right change places.
    [[nodiscard]] double determinant() const { return dot(cross(column[0], column[1]), column[2]); }
    [[nodiscard]] AffineIn after(const AffineIn& inner) const;

    static AffineIn move(const Vec3& by);
    /// About the line through both points, the right-handed way as seen from the first to the second.
    static AffineIn rotation(double angle, const std::array<Vec3, 2>& about);
    /// Mirrors at the plane through the points.
    static AffineIn mirror(const std::array<Vec3, 3>& points);
};

/// A straight line, an arc of an ellipse (a circle is one with equal radii), a piece of a rational B-spline, or a chain
/// of these that is meshed as one; run from t = 0 to t = 1.
/// The ends are stored and returned exactly, so that neighbouring curves meet bit for bit.
template <int D>
class CurveIn {
  public:
    enum class Kind { line, arc, spline, chain };

    static CurveIn line(const Vec<D>& start, const Vec<D>& end);
    /// The points centre + a cos(phi) + b sin(phi) for phi from `from` to `to`; a and b are at right angles.
    static CurveIn arc(const Vec<D>& centre, const Vec<D>& a, const Vec<D>& b, double from, double to);
    /// Parameters from `from` to `to`, in either direction.
    static CurveIn spline(std::shared_ptr<const NurbsIn<D>> nurbs, double from, double to);
    /// Curves that follow each other; t runs evenly with their length.
    static CurveIn chain(std::vector<CurveIn> links);

    /// The piece between two parameters, run from the first to the second.
    [[nodiscard]] CurveIn piece(double from, double to) const;
    /// Both as one curve, if b goes on where a ends, on the same line, ellipse or spline.
    static std::optional<CurveIn> joined(const CurveIn& a, const CurveIn& b);
    [[nodiscard]] CurveIn transformed(const AffineIn<D>& map) const;

    [[nodiscard]] Kind kind() const { return kind_; }
    [[nodiscard]] bool straight() const { return kind_ == Kind::line; }
    [[nodiscard]] const Vec<D>& start() const { return start_; }
    [[nodiscard]] const Vec<D>& end() const { return end_; }
    [[nodiscard]] bool closed() const { return start_ == end_; }
    void set_ends(const Vec<D>& start, const Vec<D>& end);

    [[nodiscard]] Vec<D> point(double t) const;
    /// d point / d t.
    [[nodiscard]] Vec<D> derivative(double t) const;
    /// Second derivative by t.
    [[nodiscard]] Vec<D> second_derivative(double t) const;
    /// Radius of curvature; infinity on a line.
    [[nodiscard]] double curvature_radius(double t) const;
    /// Angle by which the tangent turns from start to end, every bend counted positive; 0 on a line.
    [[nodiscard]] double turning() const;
    [[nodiscard]] double length() const;
    /// Contribution to twice the enclosed area: the integral of x dy - y dx about a point, in space of the vector
    /// r x dr along the normal. The nearer the point is, the more digits the sum over a closed outline has.
    using Area = std::conditional_t<D == 2, double, Vec3>;
    [[nodiscard]] Area twice_area(const Vec<D>& about) const;
    [[nodiscard]] Box<D> box() const;
    /// The parameter of the nearest point.
    [[nodiscard]] double project(const Vec<D>& p) const;
    /// Parameters, from 0 to 1, between which the curve is smooth and turns by at most about a quarter circle.
    [[nodiscard]] std::vector<double> smooth_pieces() const;
    /// Parameters inside (0, 1) at which the coordinate along an axis has an extreme.
    [[nodiscard]] std::vector<double> extremes(std::size_t axis) const;
    [[nodiscard]] CurveIn reversed() const;

    /// Of an arc: centre, the two half axes, and the parameter at both ends. Of a spline: the latter.
    [[nodiscard]] const Vec<D>& centre() const { return centre_; }
    [[nodiscard]] const Vec<D>& axis_a() const { return a_; }
    [[nodiscard]] const Vec<D>& axis_b() const { return b_; }
    [[nodiscard]] double from_angle() const { return from_; }
    [[nodiscard]] double to_angle() const { return to_; }
    [[nodiscard]] bool circular() const;  ///< an arc with equal radii
    [[nodiscard]] const NurbsIn<D>& nurbs() const { return *nurbs_; }
    [[nodiscard]] const std::vector<CurveIn>& links() const { return *links_; }

  private:
    /// Of a chain: the link at t and the parameter on it, and how fast that runs with t.
    struct LinkPlace {
        const CurveIn* link;
        double t, speed;
    };
    [[nodiscard]] LinkPlace link_at(double t) const;

    Kind kind_ = Kind::line;
    Vec<D> start_, end_;
    Vec<D> centre_, a_, b_;
    double from_ = 0, to_ = 0;
    std::shared_ptr<const NurbsIn<D>> nurbs_;
    std::shared_ptr<const std::vector<CurveIn>> links_;
    std::shared_ptr<const std::vector<double>> joints_;  ///< share of the chain's length at the end of each link
};
using Curve = CurveIn<2>;

/// Sum of f(t) dt over the whole curve by Gauss-Legendre quadrature with 8 points on each smooth piece.
template <int D, class F>
auto integrate(const CurveIn<D>& curve, F f) {
    const auto pieces = curve.smooth_pieces();
    decltype(f(0.0)) sum{};
    for (std::size_t i = 1; i < pieces.size(); ++i) {
        const double middle = 0.5 * (pieces[i] + pieces[i - 1]), half = 0.5 * (pieces[i] - pieces[i - 1]);
        for (int k = 0; k < 4; ++k)
            sum += half * gauss8_weight[k] * (f(middle - half * gauss8_place[k]) + f(middle + half * gauss8_place[k]));
    }
    return sum;
}

}  // namespace dotsift
