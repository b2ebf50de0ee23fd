#pragma once
// Adding, cutting and intersecting solids, with regions that meet conformally. All are cut where they meet; each piece
// of space then knows in which of them it lies, and the steps are played through on that.

#include "base/errors.hpp"
#include "part/combine/step_rule.hpp"
#include "part/solid/solid_part.hpp"

namespace dotsift {

struct SolidStep : StepRule {
    std::vector<SolidPart> copies;  ///< the shape is the union of these; without `region` its bodies keep theirs
};

struct CombinedSolids {
    SolidPart part;
    std::vector<StepTrace> traces;
};

/// The geometry cannot be combined as it stands; with other lines along which round faces are parted it may.
struct CombineFault : InputError {
    using InputError::InputError;
};

/// Plays the steps. Pieces of one face that nothing parts are one face again. Throws CombineFault, and InputError where
/// nothing is left. `known_regions` come first in SolidPart::regions, in their order.
CombinedSolids combine_solids(const std::vector<SolidStep>& steps, const std::vector<std::string>& known_regions = {});

}  // namespace dotsift
