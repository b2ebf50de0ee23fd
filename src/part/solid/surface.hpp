#pragma once
// Surfaces of a solid's faces, evaluated in own code.

#include <array>
#include <memory>
#include <mutex>

#include "part/curve.hpp"
#include "part/solid/facet_surface.hpp"
#include "part/solid/flattening.hpp"
#include "part/solid/spline_surface.hpp"

namespace dotsift {

/// A place in space and three axes at right angles to each other, of length 1 and right-handed.
struct Frame {
    Vec3 origin{};
    std::array<Vec3, 3> axis{{{{1, 0, 0}}, {{0, 1, 0}}, {{0, 0, 1}}}};

    /// With z along an axis, x where `towards` lies beside it.
    static Frame about(const Vec3& origin, const Vec3& z, const Vec3& towards);
    [[nodiscard]] Vec3 out(const Vec3& local) const {
        return origin + axis[0] * local[0] + axis[1] * local[1] + axis[2] * local[2];
    }
    [[nodiscard]] Vec3 in(const Vec3& p) const {
        const Vec3 d = p - origin;
        return {{dot(d, axis[0]), dot(d, axis[1]), dot(d, axis[2])}};
    }
};

/// A plane curve in the plane of x and y of a frame.
CurveIn<3> in_space(const Curve& curve, const Frame& frame);

/// A plane, or what a curve in a plane makes when it is drawn along the axis z of a frame or turned about it: by line
/// and arc the cylinder, cone, sphere and ring; or a spline surface, or one over facets, which have no frame and no
/// profile. Parameters:
///
///     plane       x and y of the frame
///     drawn       t of the profile, which lies in x and y, and the height z
///     turned      the angle from x, and t of the profile, whose x is the distance from the axis (>= 0), y the height
///     spline      its own
///     facets      its own, those of its chart
///
/// The normal is the product of the derivatives by the first and the second: of a plane it is z, of what a profile
/// makes it lies on the right of the profile.
class Surface {
  public:
    enum class Kind { plane, drawn, turned, spline, facets };

    static Surface plane(const Frame& frame);
    static Surface drawn(const Frame& frame, const Curve& profile);
    static Surface turned(const Frame& frame, const Curve& profile);
    /// One that does not close, neither way.
    static Surface spline(SplineSurface surface);
    static Surface over_facets(FacetSurface surface);

    /// Moved by a rigid map. `turned_over`: the normal of the image is against the image of the normal, as mirrored
    /// planes and drawn surfaces have it.
    [[nodiscard]] Surface transformed(const AffineIn<3>& map, bool& turned_over) const;
    /// A line that was drawn makes a plane, with the same normal; nothing else changes.
    [[nodiscard]] Surface as_plane() const;
    /// The same surface with its normal the other way.
    [[nodiscard]] Surface turned_over() const;

    [[nodiscard]] Kind kind() const { return kind_; }
    [[nodiscard]] const Frame& frame() const { return frame_; }
    [[nodiscard]] const Curve& profile() const { return profile_; }
    [[nodiscard]] const SplineSurface& spline() const { return spline_->surface; }
    [[nodiscard]] const FacetSurface& facets() const { return *facets_; }
    [[nodiscard]] const SurfaceGrid& grid() const { return spline_->grid; }  ///< of a spline surface
    /// Of a spline surface, made when it is first asked for.
    [[nodiscard]] const Flattening& flattening() const;

    [[nodiscard]] Vec3 point(const Vec2& at) const;
    /// Point, and derivatives by the first and the second parameter.
    [[nodiscard]] std::array<Vec3, 3> tangents(const Vec2& at) const;
    /// By the first and the second parameter.
    [[nodiscard]] std::array<Vec3, 2> derivatives(const Vec2& at) const;
    /// Twice by the first, by both, twice by the second.
    [[nodiscard]] std::array<Vec3, 3> second_derivatives(const Vec2& at) const;
    /// Unit normal; at a pole, where the surface meets its axis, that of the places beside it.
    [[nodiscard]] Vec3 normal(const Vec2& at) const;
    /// The principal radii of curvature, the smaller first, > 0 where it bends away from the normal; infinity: flat.
    [[nodiscard]] std::array<double, 2> curvature_radii(const Vec2& at) const;
    /// Parameters of the nearest point; where they go round, those nearest to `beside`.
    [[nodiscard]] Vec2 project(const Vec3& p, const Vec2& beside = {}) const;
    /// How much more of each parameter is the same place; 0: it does not go round.
    [[nodiscard]] Vec2 periods() const;

  private:
    /// A place beside a pole, where one derivative vanishes; elsewhere the same.
    [[nodiscard]] Vec2 off_pole(const Vec2& at) const;
    /// The profile's parameter.
    [[nodiscard]] double on_profile(const Vec2& at) const;

    Kind kind_ = Kind::plane;
    Frame frame_;
    Curve profile_;
    struct Spline {
        SplineSurface surface;
        SurfaceGrid grid;
        mutable std::once_flag laid_flat;
        mutable std::unique_ptr<const Flattening> flattening;
    };
    std::shared_ptr<const Spline> spline_;
    std::shared_ptr<const FacetSurface> facets_;
};

}  // namespace dotsift
