#pragma once
// A field along a path of the study, over the levels of all series.

#include <array>
#include <string>
#include <utility>
#include <vector>

#include "series/run.hpp"

namespace dotsift {

/// One level's values over the distance along the path; NaN outside the part.
struct PathCurve {
    std::string series;
    int level = 1;
    bool finest = false;  ///< the last of its series
    std::vector<Vec2> points;
};

struct PathStory {
    std::vector<PathCurve> curves;  ///< the finest of each series, and before them a coarser one of the series told
    std::string told;               ///< the series with the finest level
    /// Distance, low and high end of the 95 % interval about its finest values, point by point, as of any quantity;
    /// where none can be given there is none.
    std::vector<std::array<double, 3>> band;
    std::vector<std::pair<double, std::string>> corners;  ///< of a boundary: where an edge ends, and the point's name
};

/// `load_case`: its name; empty: the first one.
PathStory path_story(const StudyResult& result, const PathSpec& path, Field field, const std::string& load_case = {});

}  // namespace dotsift
