#pragma once
// Where on a part something failed, 1280 x 800.

#include <string>

#include "evidence/drawing/view.hpp"
#include "part/part.hpp"

namespace dotsift {

/// The part round a place, with the place ringed and one boundary in colour, and a small picture of the whole part that
/// shows where that is.
PictureFiles draw_failure(const Part& part, const std::string& title, const std::string& what, const Vec2& place,
                          const std::string& boundary, const std::string& unit);

}  // namespace dotsift
