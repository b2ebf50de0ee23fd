#pragma once
// A labelled picture of a part, 1280 x 800.

#include "evidence/drawing/view.hpp"
#include "inspect/inspect.hpp"

namespace dotsift {

/// Regions, named boundaries and points with their names, overall dimensions, and the findings numbered as in the list
/// beside.
PictureFiles draw_part(const StudyAndPart& opened, const PartReport& report);

/// The part as it was before the clean-up beside the cleaned one.
PictureFiles draw_cleanup(const StudyAndPart& opened);

}  // namespace dotsift
