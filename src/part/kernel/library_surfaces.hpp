#pragma once
// Surfaces as the geometry library has them, and back. Only the module's own files include this.

#include <Geom_Surface.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <vector>

#include "part/kernel/library_curves.hpp"
#include "part/solid/surface.hpp"

namespace dotsift {

/// Each knot once, and how often it stands.
struct LibraryKnots {
    explicit LibraryKnots(const std::vector<double>& all);
    TColStd_Array1OfReal values;
    TColStd_Array1OfInteger times;
};

/// Where it goes round, its seam lies opposite to `middle`, a place on the face or amid its edges.
Handle(Geom_Surface) to_library(const Surface& surface, const Vec3& middle, const LibraryScale& scale);

/// Between which of its parameters a face lies.
struct SurfaceBounds {
    Vec2 low, high;
};

/// As far as the bounds go, which span less than a whole turn. Planes, cylinders, cones, spheres and rings stay what
/// they are; all else becomes a spline surface.
Surface from_library(const Handle(Geom_Surface) & surface, const SurfaceBounds& bounds, const LibraryScale& scale);

}  // namespace dotsift
