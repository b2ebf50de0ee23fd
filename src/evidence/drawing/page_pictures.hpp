#pragma once
// Copies of pictures for pages and documents that hold many: JPEG, at half the size of the PNG.

#include <string>

#include "evidence/drawing/view.hpp"

namespace dotsift {

/// As JPEG, its colours as sharp as its brightness. Throws FileError.
PagePicture page_picture_of(const PixelPicture& picture);

/// What a page or a document holds of a picture; made now if it was not made ahead. Throws FileError.
PagePicture page_picture(const PictureFiles& files);

enum class PageSize { as_drawn, half };
/// Makes ahead what a page will show, and lets the pixels go.
void add_page_copy(PictureFiles& files, PageSize size = PageSize::as_drawn);

}  // namespace dotsift
