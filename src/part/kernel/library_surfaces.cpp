#include "part/kernel/library_surfaces.hpp"

#include <GeomConvert.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <Geom_SphericalSurface.hxx>
#include <Geom_SurfaceOfLinearExtrusion.hxx>
#include <Geom_SurfaceOfRevolution.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <TColStd_Array2OfReal.hxx>
#include <TColgp_Array2OfPnt.hxx>
#include <algorithm>
#include <cmath>
#include <optional>
#include <set>

namespace dotsift {

namespace {

// Of a length beside it: a difference smaller than this is rounding.
constexpr double flat_share = 1e-9;
// A ring whose tube nearly reaches its axis is not handed over as one.
constexpr double clear_of_axis = 1e-6;

gp_Dir direction(const Vec3& v) {
    return {v[0], v[1], v[2]};
}

/// Builds the library's surface of a face. Where it goes round, its seam lies opposite to the face.
class SurfaceMaker {
  public:
    SurfaceMaker(const Surface& surface, const Vec3& middle, const LibraryScale& scale)
        : surface_(surface), frame_(surface.frame()), profile_(surface.profile()), middle_(middle), scale_(scale) {}

    [[nodiscard]] Handle(Geom_Surface) make() const {
        if (surface_.kind() == Surface::Kind::spline) return spline();
        if (surface_.kind() == Surface::Kind::plane) return plane(frame_.origin, frame_.axis[2]);
        return surface_.kind() == Surface::Kind::drawn ? drawn() : turned();
    }

  private:
    [[nodiscard]] Handle(Geom_Surface) plane(const Vec3& at, const Vec3& normal) const {
        return new Geom_Plane(scale_.in(at), direction(normal));
    }
    [[nodiscard]] Handle(Geom_Surface) spline() const {
        const SplineSurface& s = surface_.spline();
        const LibraryKnots u(s.knots[0]), v(s.knots[1]);
        const int rows = static_cast<int>(s.count(0)), row = static_cast<int>(s.count(1));
        TColgp_Array2OfPnt poles(1, rows, 1, row);
        TColStd_Array2OfReal weights(1, rows, 1, row);
        for (int i = 0; i < rows; ++i)
            for (int j = 0; j < row; ++j) {
                const auto pole = static_cast<std::size_t>(i * row + j);
                poles.SetValue(i + 1, j + 1, scale_.in(s.poles[pole]));
                weights.SetValue(i + 1, j + 1, s.weights.empty() ? 1.0 : s.weights[pole]);
            }
        return new Geom_BSplineSurface(poles, weights, u.values, v.values, u.times, v.times, s.degree[0], s.degree[1]);
    }
    /// The curve in the plane of x and y of a frame, as far as it goes.
    [[nodiscard]] Handle(Geom_Curve) basis(const Frame& frame) const {
        const CurveIn<3> curve = in_space(profile_, frame);
        if (curve.straight()) {
            const gp_Pnt a = scale_.in(curve.start()), b = scale_.in(curve.end());
            return new Geom_TrimmedCurve(new Geom_Line(a, gp_Dir(gp_Vec(a, b))), 0, a.Distance(b));
        }
        const LibraryCurve c = to_library(curve, scale_);
        return new Geom_TrimmedCurve(c.geometry, std::min(c.first, c.last), std::max(c.first, c.last));
    }
    /// Local axes along z, with x away from the face as seen from there.
    [[nodiscard]] gp_Ax3 away(const Vec3& origin, const Vec3& z) const {
        const Vec3 to = middle_ - origin, across = to - z * dot(to, z);
        const gp_Pnt at = scale_.in(origin);
        if (norm(across) == 0) return {at, direction(z)};
        return {at, direction(z), direction(-across)};
    }

    [[nodiscard]] Handle(Geom_Surface) drawn() const {
        const Vec3 z = frame_.axis[2];
        if (profile_.straight()) {
            const Vec2 d = profile_.end() - profile_.start();
            return plane(frame_.out(in_space(profile_.start())),
                         cross(frame_.axis[0] * d[0] + frame_.axis[1] * d[1], z));
        }
        if (profile_.kind() == Curve::Kind::arc && profile_.circular())
            return new Geom_CylindricalSurface(away(frame_.out(in_space(profile_.centre())), z),
                                               norm(profile_.axis_a()) / scale_.size);
        return new Geom_SurfaceOfLinearExtrusion(basis(frame_), direction(z));
    }

    [[nodiscard]] Handle(Geom_Surface) turned() const {
        const Vec3 z = frame_.axis[2];
        const auto on_axis = [&](double height) { return frame_.out({{0, 0, height}}); };
        if (profile_.straight()) {
            const Vec2 a = profile_.start(), b = profile_.end();
            const double dx = b[0] - a[0], dy = b[1] - a[1], length = std::hypot(dx, dy);
            if (std::fabs(dy) <= flat_share * length) return plane(on_axis(a[1]), z);
            if (std::fabs(dx) <= flat_share * length)
                return new Geom_CylindricalSurface(away(on_axis(a[1]), z), (a[0] + b[0]) / 2 / scale_.size);
            // From the wider end, where it widens along the axis.
            const Vec2 wide = dx > 0 ? b : a;
            const double slope = dx / dy;
            return new Geom_ConicalSurface(away(on_axis(wide[1]), slope > 0 ? z : -z), std::atan(std::fabs(slope)),
                                           wide[0] / scale_.size);
        }
        if (profile_.kind() == Curve::Kind::arc && profile_.circular()) {
            const double r = norm(profile_.axis_a()), out = profile_.centre()[0];
            const gp_Ax3 axes = away(on_axis(profile_.centre()[1]), z);
            if (std::fabs(out) <= flat_share * r) return new Geom_SphericalSurface(axes, r / scale_.size);
            if (out > r * (1 + clear_of_axis))
                return new Geom_ToroidalSurface(axes, out / scale_.size, r / scale_.size);
        }
        // Its seam is where its curve lies.
        Frame opposite = frame_;
        const gp_Ax3 axes = away(frame_.origin, z);
        opposite.axis[0] = {{axes.XDirection().X(), axes.XDirection().Y(), axes.XDirection().Z()}};
        opposite.axis[1] = z;
        opposite.axis[2] = cross(opposite.axis[0], opposite.axis[1]);
        return new Geom_SurfaceOfRevolution(basis(opposite), gp_Ax1(scale_.in(frame_.origin), direction(z)));
    }

    const Surface& surface_;
    const Frame& frame_;
    const Curve& profile_;
    const Vec3& middle_;
    const LibraryScale& scale_;
};

Vec3 unit(const gp_Dir& d) {
    return {{d.X(), d.Y(), d.Z()}};
}

/// With x and y of the library's axes, or with x and z: those may be left-handed, a frame is not.
Frame frame_xy(const gp_Ax3& axes, const LibraryScale& scale) {
    Frame f;
    f.origin = scale.out(axes.Location());
    f.axis = {unit(axes.XDirection()), unit(axes.YDirection()), {}};
    f.axis[2] = cross(f.axis[0], f.axis[1]);
    return f;
}
Frame frame_xz(const gp_Ax3& axes, const LibraryScale& scale) {
    Frame f;
    f.origin = scale.out(axes.Location());
    f.axis = {unit(axes.XDirection()), {}, unit(axes.Direction())};
    f.axis[1] = cross(f.axis[2], f.axis[0]);
    return f;
}

SplineSurface spline_from(const Geom_BSplineSurface& s, const LibraryScale& scale) {
    SplineSurface out;
    out.degree = {s.UDegree(), s.VDegree()};
    for (int k = 1; k <= s.NbUKnots(); ++k)
        out.knots[0].insert(out.knots[0].end(), static_cast<std::size_t>(s.UMultiplicity(k)), s.UKnot(k));
    for (int k = 1; k <= s.NbVKnots(); ++k)
        out.knots[1].insert(out.knots[1].end(), static_cast<std::size_t>(s.VMultiplicity(k)), s.VKnot(k));
    const bool rational = s.IsURational() || s.IsVRational();
    for (int i = 1; i <= s.NbUPoles(); ++i)
        for (int j = 1; j <= s.NbVPoles(); ++j) {
            out.poles.push_back(scale.out(s.Pole(i, j)));
            if (rational) out.weights.push_back(s.Weight(i, j));
        }
    return out;
}

/// The profile of a surface of revolution, in distance from the axis and height: a line, or an arc of a circle.
std::optional<Surface> turned_from(const Frame& frame, const Curve& profile) {
    // Beyond the axis the same surface would be met from the other side.
    if (profile.start()[0] < 0 || profile.end()[0] < 0) return std::nullopt;
    return Surface::turned(frame, profile);
}

}  // namespace

LibraryKnots::LibraryKnots(const std::vector<double>& all)
    : values(1, static_cast<int>(std::set<double>(all.begin(), all.end()).size())), times(1, values.Length()) {
    int k = 0;
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (i > 0 && all[i] == all[i - 1]) {
            times.SetValue(k, times.Value(k) + 1);
            continue;
        }
        values.SetValue(++k, all[i]);
        times.SetValue(k, 1);
    }
}

Handle(Geom_Surface) to_library(const Surface& surface, const Vec3& middle, const LibraryScale& scale) {
    return SurfaceMaker(surface, middle, scale).make();
}

Surface from_library(const Handle(Geom_Surface) & given, const SurfaceBounds& b, const LibraryScale& scale) {
    Handle(Geom_Surface) basis = given;
    while (const auto trimmed = Handle(Geom_RectangularTrimmedSurface)::DownCast(basis))
        basis = trimmed->BasisSurface();
    const double size = scale.size;
    std::optional<Surface> made;
    if (const auto plane = Handle(Geom_Plane)::DownCast(basis))
        return Surface::plane(frame_xy(plane->Position(), scale));
    if (const auto tube = Handle(Geom_CylindricalSurface)::DownCast(basis)) {
        const double r = tube->Radius() * size;
        return Surface::drawn(frame_xy(tube->Position(), scale),
                              Curve::arc({}, {{r, 0}}, {{0, r}}, b.low[0], b.high[0]));
    }
    if (const auto cone = Handle(Geom_ConicalSurface)::DownCast(basis)) {
        const double s = std::sin(cone->SemiAngle()), c = std::cos(cone->SemiAngle());
        const auto at = [&](double v) {
            return Vec2{{std::max((cone->RefRadius() + v * s) * size, 0.0), v * c * size}};
        };
        if (cone->RefRadius() + b.low[1] * s > -flat_share && cone->RefRadius() + b.high[1] * s > -flat_share)
            made = turned_from(frame_xz(cone->Position(), scale), Curve::line(at(b.low[1]), at(b.high[1])));
    }
    if (const auto ball = Handle(Geom_SphericalSurface)::DownCast(basis)) {
        const double r = ball->Radius() * size;
        Curve arc = Curve::arc({}, {{r, 0}}, {{0, r}}, b.low[1], b.high[1]);
        const auto on_axis = [&](const Vec2& p) { return std::fabs(p[0]) <= flat_share * r ? Vec2{{0, p[1]}} : p; };
        arc.set_ends(on_axis(arc.start()), on_axis(arc.end()));
        const bool two_poles = arc.start()[0] == 0 && arc.end()[0] == 0;
        if (!two_poles) made = turned_from(frame_xz(ball->Position(), scale), arc);
    }
    if (const auto ring = Handle(Geom_ToroidalSurface)::DownCast(basis);
        ring && ring->MajorRadius() > ring->MinorRadius() * (1 + clear_of_axis)) {
        const double r = ring->MinorRadius() * size;
        made = turned_from(frame_xz(ring->Position(), scale),
                           Curve::arc({{ring->MajorRadius() * size, 0}}, {{r, 0}}, {{0, r}}, b.low[1], b.high[1]));
    }
    if (made) return *made;
    const auto spline = GeomConvert::SurfaceToBSplineSurface(
        new Geom_RectangularTrimmedSurface(basis, b.low[0], b.high[0], b.low[1], b.high[1]));
    if (spline->IsUPeriodic()) spline->SetUNotPeriodic();
    if (spline->IsVPeriodic()) spline->SetVNotPeriodic();
    return Surface::spline(spline_from(*spline, scale));
}

}  // namespace dotsift
