#include "part/kernel/library_curves.hpp"

#include <GeomConvert.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Ellipse.hxx>
#include <Geom_Line.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <TColgp_Array1OfPnt.hxx>

#include "part/kernel/library_surfaces.hpp"

namespace dotsift {

namespace {

template <int D>
gp_Dir direction(const Vec<D>& v) {
    const Vec3 d = in_space(v);
    return {d[0], d[1], d[2]};
}

Vec3 vector(const gp_Dir& d) {
    return {{d.X(), d.Y(), d.Z()}};
}

template <int D>
Handle(Geom_Curve) arc_geometry(const CurveIn<D>& c, const LibraryScale& scale, double& shift) {
    const auto a = c.axis_a() / scale.size, b = c.axis_b() / scale.size;
    const bool swap = norm(b) > norm(a);
    const auto major = swap ? b : a, minor = swap ? -a : b;
    gp_Dir normal(0, 0, 1);
    if constexpr (D == 2) {
        if (!(cross(major, minor) > 0)) normal.Reverse();
    } else {
        normal = direction<3>(cross(major, minor));
    }
    const gp_Ax2 axes(scale.in(c.centre()), normal, direction<D>(major));
    shift = swap ? -M_PI / 2 : 0;
    if (c.circular()) return new Geom_Circle(axes, norm(major));
    return new Geom_Ellipse(axes, norm(major), norm(minor));
}

template <int D>
Handle(Geom_Curve) spline_geometry(const NurbsIn<D>& n, const LibraryScale& scale) {
    const LibraryKnots knots(n.knots);
    TColgp_Array1OfPnt poles(1, static_cast<int>(n.poles.size()));
    TColStd_Array1OfReal weights(1, static_cast<int>(n.poles.size()));
    for (std::size_t i = 0; i < n.poles.size(); ++i) {
        poles.SetValue(static_cast<int>(i) + 1, scale.in(n.poles[i]));
        weights.SetValue(static_cast<int>(i) + 1, n.weights.empty() ? 1.0 : n.weights[i]);
    }
    if (n.weights.empty()) return new Geom_BSplineCurve(poles, knots.values, knots.times, n.degree);
    return new Geom_BSplineCurve(poles, weights, knots.values, knots.times, n.degree);
}

CurveIn<3> spline_from(const Geom_BSplineCurve& spline, double first, double last, const LibraryScale& scale) {
    NurbsIn<3> n;
    n.degree = spline.Degree();
    for (int k = 1; k <= spline.NbKnots(); ++k)
        n.knots.insert(n.knots.end(), static_cast<std::size_t>(spline.Multiplicity(k)), spline.Knot(k));
    for (int i = 1; i <= spline.NbPoles(); ++i) {
        n.poles.push_back(scale.out(spline.Pole(i)));
        if (spline.IsRational()) n.weights.push_back(spline.Weight(i));
    }
    return CurveIn<3>::spline(std::make_shared<const NurbsIn<3>>(std::move(n)), first, last);
}

}  // namespace

template <int D>
LibraryCurve to_library(const CurveIn<D>& curve, const LibraryScale& scale) {
    LibraryCurve out;
    if (curve.kind() == CurveIn<D>::Kind::chain) return out;
    double shift = 0;
    out.geometry = curve.kind() == CurveIn<D>::Kind::arc ? arc_geometry(curve, scale, shift)
                                                         : spline_geometry(curve.nurbs(), scale);
    out.first = curve.from_angle() + shift;
    out.last = curve.to_angle() + shift;
    return out;
}
template LibraryCurve to_library<2>(const CurveIn<2>&, const LibraryScale&);
template LibraryCurve to_library<3>(const CurveIn<3>&, const LibraryScale&);

CurveIn<3> from_library(const Handle(Geom_Curve) & curve, double first, double last, const LibraryScale& scale) {
    Handle(Geom_Curve) basis = curve;
    while (const auto trimmed = Handle(Geom_TrimmedCurve)::DownCast(basis)) basis = trimmed->BasisCurve();
    if (const auto line = Handle(Geom_Line)::DownCast(basis))
        return CurveIn<3>::line(scale.out(line->Value(first)), scale.out(line->Value(last)));
    const auto arc = [&](const gp_Ax2& axes, double major, double minor) {
        return CurveIn<3>::arc(scale.out(axes.Location()), vector(axes.XDirection()) * (major * scale.size),
                               vector(axes.YDirection()) * (minor * scale.size), first, last);
    };
    if (const auto circle = Handle(Geom_Circle)::DownCast(basis))
        return arc(circle->Position(), circle->Radius(), circle->Radius());
    if (const auto ellipse = Handle(Geom_Ellipse)::DownCast(basis))
        return arc(ellipse->Position(), ellipse->MajorRadius(), ellipse->MinorRadius());
    if (const auto spline = Handle(Geom_BSplineCurve)::DownCast(basis); spline && !spline->IsPeriodic())
        return spline_from(*spline, first, last, scale);
    const auto made = GeomConvert::CurveToBSplineCurve(new Geom_TrimmedCurve(basis, first, last));
    if (made->IsPeriodic()) made->SetNotPeriodic();
    return spline_from(*made, made->FirstParameter(), made->LastParameter(), scale);
}

}  // namespace dotsift
