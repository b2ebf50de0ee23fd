#pragma once
// Simplifying a solid before it is meshed.

#include <vector>

#include "part/combine/cleanup.hpp"
#include "part/solid/marked_points.hpp"

namespace dotsift {

struct CleanedSolid {
    SolidPart part;
    std::vector<CleanupItem> items;    ///< each says where; `at` is of the plane
    std::vector<MarkedPoint> centres;  ///< the middles of holes that were filled
};

/// Fills cylindrical holes, through or blind, with all that lies in them, and removes rounds, whose neighbours go on
/// until they meet. Each that cannot be removed is told and stays. The part is one body. Throws InputError.
/// `length`: the unit's label.
CleanedSolid clean_up_solid(const CleanupSpec& spec, SolidPart part, const std::string& length);

}  // namespace dotsift
