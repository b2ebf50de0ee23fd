#pragma once
// A size along a curve -> size sources, in the plane and in space.

#include <functional>
#include <vector>

#include "part/curve.hpp"
#include "sizes/size_field.hpp"

namespace dotsift {

/// Short chords along the curve, or its arcs, with sizes that are linear on each; `size_at` tells that at a parameter,
/// `varies` that it is not the same everywhere. It holds to the distance `reach`.
template <int D>
void add_curve_sources(const CurveIn<D>& curve, const std::function<double(double)>& size_at, bool varies, double reach,
                       int rule, std::vector<SizeSourceIn<D>>& sources);

}  // namespace dotsift
