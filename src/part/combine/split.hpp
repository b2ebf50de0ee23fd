#pragma once
// Curves -> pieces that meet at their ends only.

#include <vector>

#include "part/curve.hpp"

namespace dotsift {

/// Points and curves nearer than this share of the whole drawing's diagonal are taken as touching.
inline constexpr double weld_share = 1e-7;

struct SplitPiece {
    Curve curve;
    int start = 0, end = 0;   ///< vertices
    std::vector<int> origin;  ///< indices of all given curves that it lies on, ascending; it runs like the first
};

struct SplitCurves {
    std::vector<Vec2> vertices;
    std::vector<SplitPiece> pieces;
};

/// Cuts curves where they meet. `loop` tells for each curve to which closed outline it belongs: curves of one outline
/// are known to meet at their ends only. Ends within the weld distance of each other become one vertex. The geometry
/// library is loaded only if two curves really meet; only those go through it. Throws InputError with a place.
SplitCurves split_curves(std::vector<Curve> curves, const std::vector<int>& loop);

}  // namespace dotsift
