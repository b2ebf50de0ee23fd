#pragma once
// Study -> solid: what the plane shapes make, then the shapes of space played one after the other.

#include <optional>

#include "part/combine/cleanup.hpp"
#include "part/part.hpp"
#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// `plane`: the part that the plane shapes make, if there are any. Faults go into `problems`, and nothing is then
/// returned unless only names by rules, of edges and of points are at fault. What clean-up did goes into `cleanup`.
std::optional<SolidPart> build_solid(const Study& study, const Part& plane, Problems& problems,
                                     std::vector<CleanupItem>& cleanup);

}  // namespace dotsift
