#pragma once
// Edges and corners of a solid brought onto the true meeting of its surfaces.

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// The geometry library finds where surfaces meet up to a tolerance of its own, which may be a thousandth of the part.
/// Here every corner is moved to where the surfaces of all its faces meet, and every spline between two surfaces
/// becomes one that lies on both to a billionth of the part's size, by Newton's method. What meets at too flat an
/// angle, or lies farther away than the library's tolerance, stays as it is. Corners that fall together then become
/// one.
void sharpen(SolidPart& part);

}  // namespace dotsift
