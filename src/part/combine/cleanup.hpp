#pragma once
// Simplifying a part before it is meshed.

#include <string>
#include <vector>

#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// One thing that was done, or could not be done, and where.
struct CleanupItem {
    std::string what;
    Vec2 at;
    bool done = true;
};

/// Fills holes, removes rounds, merges points and joins edges as asked, in this order. Names stay on what is left.
std::vector<CleanupItem> clean_up(const CleanupSpec& spec, Part& part);

}  // namespace dotsift
