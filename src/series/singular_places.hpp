#pragma once
// Which singular points show in a solution, and which quantities sit on one.

#include <string>
#include <vector>

#include "quantities/evaluate.hpp"
#include "series/level.hpp"
#include "solve/singular/singular_points.hpp"

namespace dotsift {

struct SingularPlace {
    SingularPoint point;
    std::vector<std::string> shows_in;  ///< the load cases whose solution rises towards it; "" where there are none
    std::vector<double> woken;          ///< in each of these the exponent that the loads wake
    std::string advice;
    [[nodiscard]] bool shows() const { return !shows_in.empty(); }
};

/// Every singular point with what a level's cases show of it: of a force at a point, that it acts; where modes are
/// known, that they are needed to describe the displacement (see SingularFit); elsewhere, that stress or flux rises
/// towards it with at least half of what the exponent says.
/// `near` is the distance within which a node is the point.
std::vector<SingularPlace> singular_places(const Study& study, const LevelFields& fields,
                                           const std::vector<SingularPoint>& points, double near);

/// The same of the edges of a solid: the estimated error, over its volume and the size to the elements' degree, rises
/// towards them as a derivative of such a field does, with at least a quarter of the slope exponent - 1 - degree. (The
/// stress itself hardly shows it: what is singular is small beside the rest but very near.)
std::vector<SingularPlace> singular_places(const Study& study, const LevelFieldsIn<3>& fields,
                                           const std::vector<SingularPoint>& edges);

/// Why a quantity has no limit on ever finer meshes: it is a stress or flux, the largest or smallest one or that at a
/// point, and sits on a singular place that shows in its load case, or, if its values grow from mesh to mesh (`grows`),
/// on one that might. Empty if it does not.
template <int D>
std::string why_unbounded(const QuantitySpec& quantity, const QuantityValue& value, const LevelFieldsIn<D>& fields,
                          const std::vector<SingularPlace>& places, double near, bool grows);

}  // namespace dotsift
