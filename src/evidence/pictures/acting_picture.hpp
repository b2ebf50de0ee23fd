#pragma once
// What holds a part and what acts on it, drawn on the part.

#include "evidence/drawing/view.hpp"
#include "part/checks/check_study.hpp"

namespace dotsift {

/// Supports as strokes along their boundaries with signs of the directions that they hold; loads on boundaries and at
/// points as arrows along them, longest where they are largest; every one of them, those in regions too, in a list with
/// its values.
PictureFiles draw_acting(const StudyAndPart& opened);

}  // namespace dotsift
