#pragma once
// Copies of pictures for pages that hold many: WebP at a third of the size for a screen, fewer pixels for paper.

#include <string>

#include "evidence/view.hpp"

namespace dotsift {

/// As WebP, not quite as sharp, no wider than this. Throws FileError.
std::string webp_of(const PixelPicture& picture, int widest = picture_width);

/// What a document holds of a picture: on A4 pages in two columns 185 pixels to the inch. Throws FileError.
PixelPicture for_paper(const PictureFiles& files);

/// Makes the WebP ahead, for pictures that a page will show; of those that keep their width also the copy for paper.
void add_page_copies(PictureFiles& files, int widest = picture_width);

}  // namespace dotsift
