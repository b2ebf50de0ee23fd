#pragma once
// Regions that shape their neighbours and are then taken away, as the solid in a channel or the air round a part.

#include <string>
#include <vector>

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// The part without the bodies of regions whose names fit the patterns. Faces towards what stays keep their names and
/// are outside now; what bounds nothing any more is gone, and marked points with it.
SolidPart without_regions(const SolidPart& part, const std::vector<std::string>& patterns);

}  // namespace dotsift
