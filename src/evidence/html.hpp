#pragma once
// Pieces of a self-contained page.

#include <string>
#include <vector>

#include "evidence/view.hpp"

namespace dotsift {

/// A figure whose picture stands in the page as data: vectors as SVG, else WebP. It is a link to its own large view.
std::string html_figure(const PictureFiles& picture, bool vector, const std::string& alternative,
                        const std::string& caption);

/// A cell of a table: what is shown (HTML), and the number that the column is sorted by; NaN: sorted as text.
struct HtmlCell {
    std::string shown;
    double sorted_by = 0;
    std::string look;  ///< class of the cell, or empty
};
HtmlCell text_cell(const std::string& text);  ///< escaped
HtmlCell number_cell(double value, const std::string& shown);

/// A table that scrolls by itself if the page is narrow; its columns can be sorted where `sortable`. Headings are HTML.
std::string html_table(const std::string& caption, const std::vector<std::string>& headings,
                       const std::vector<std::vector<HtmlCell>>& rows, bool sortable = true);

/// Everything before the content and after it; `title` is escaped here.
std::string html_head(const std::string& title);
std::string html_end();

}  // namespace dotsift
