#pragma once
// Curves as the geometry library has them, and back. Only the module's own files include this.

#include <Geom_Curve.hxx>
#include <cmath>
#include <gp_Pnt.hxx>

#include "part/curve.hpp"

namespace dotsift {

/// The library's tolerances are absolute: everything is handed over at a size of about one.
struct LibraryScale {
    Vec3 centre;
    double size = 1;
    [[nodiscard]] gp_Pnt in(const Vec3& p) const {
        return {(p[0] - centre[0]) / size, (p[1] - centre[1]) / size, (p[2] - centre[2]) / size};
    }
    [[nodiscard]] gp_Pnt in(const Vec2& p) const { return in(in_space(p)); }
    [[nodiscard]] Vec3 out(const gp_Pnt& p) const {
        return {{p.X() * size + centre[0], p.Y() * size + centre[1], p.Z() * size + centre[2]}};
    }
};

/// A curve that is not straight, and between which of the library's parameters it runs; the first may be the larger.
struct LibraryCurve {
    Handle(Geom_Curve) geometry;  ///< null: a chain, which is no single curve there
    double first = 0, last = 0;
};

template <int D>
LibraryCurve to_library(const CurveIn<D>& curve, const LibraryScale& scale);

/// Between two of its parameters. Lines, circles and ellipses stay what they are; all else becomes a spline.
CurveIn<3> from_library(const Handle(Geom_Curve) & curve, double first, double last, const LibraryScale& scale);

}  // namespace dotsift
