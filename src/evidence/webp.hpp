#pragma once
// Pictures at a third of the size, for pages that hold many.

#include <string>

#include "evidence/view.hpp"

namespace dotsift {

/// A PNG as WebP, not quite as sharp, no wider than this. Throws FileError.
std::string webp_of_png(const std::string& png, int widest = picture_width);

/// Makes it ahead, for pictures that a page will show.
void add_webp(PictureFiles& files, int widest = picture_width);

}  // namespace dotsift
