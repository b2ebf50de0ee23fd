#pragma once
// Adding, cutting and intersecting plane shapes, with regions that meet conformally. Every shape is drawn into one
// plane graph; each face of it then knows in which shapes it lies, and the steps are played through on that.

#include <map>
#include <string>
#include <vector>

#include "part/combine/step_rule.hpp"
#include "part/part.hpp"
#include "study/diagnostics.hpp"

namespace dotsift {

struct NamedCurve {
    Curve curve;
    std::vector<std::string> names;
};

struct NamedSpot {
    Vec2 at;
    std::string name;
};

/// One copy of a shape: closed outlines whose insides count by the even-odd rule, or, for lines, open chains.
struct StepOutline {
    std::vector<std::vector<NamedCurve>> loops;
};

struct CombineStep : StepRule {
    std::vector<StepOutline> copies;  ///< the shape is the union of these
    std::vector<NamedSpot> spots;     ///< points to be kept
};

struct Combined {
    Part part;
    std::vector<StepTrace> traces;
};

/// Plays the steps. Throws InputError with a place if the geometry cannot be combined. `known_regions` come first in
/// Part::regions, in their order.
Combined combine(const std::vector<CombineStep>& steps, const std::vector<std::string>& known_regions = {});

/// The steps that make this part again, moved by a map; names of points and edges included. `corners` holds curves that
/// take the place of a vertex (before the map): the edges there must already end where the curve begins and ends.
std::vector<CombineStep> steps_of(const Part& part, const Affine& map = {},
                                  const std::map<int, NamedCurve>& corners = {});

}  // namespace dotsift
