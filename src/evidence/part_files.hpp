#pragma once
// The part itself as files: DXF and SVG, with true curves and names.

#include <string>

#include "part/part.hpp"
#include "study/units.hpp"

namespace dotsift {

/// Text DXF (AC1015). Every edge once; its layer is its names joined by "+", or "0". A point on the layer "region=NAME"
/// lies in each face, named points are on layers of their name: a drawing read with nested = "regions" comes out the
/// same.
std::string part_dxf(const Part& part, const UnitSystem& units);

/// True curves in the study's unit, y upwards; every face a path of class "region NAME", every edge a path with its
/// names as classes.
std::string part_svg(const Part& part, const UnitSystem& units);

}  // namespace dotsift
