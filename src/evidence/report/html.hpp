#pragma once
// Pieces of a self-contained page.

#include <string>
#include <vector>

#include "evidence/drawing/view.hpp"
#include "evidence/report/table.hpp"

namespace dotsift {

/// A figure whose picture stands in the page as data: vectors as SVG, else JPEG. It is a link to its own large view.
std::string html_figure(const PictureFiles& picture, bool vector, const std::string& alternative,
                        const std::string& caption, const std::string& id = {});

/// A table that scrolls by itself if the page is narrow; its columns can be sorted if it says so. Nothing for a table
/// without rows.
std::string html_table(const Table& table);

/// Everything before the content and after it; `title` is escaped here.
std::string html_head(const std::string& title);
std::string html_end();

}  // namespace dotsift
