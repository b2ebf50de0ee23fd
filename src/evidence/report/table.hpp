#pragma once
// A table of a report, before it becomes part of a page.

#include <string>
#include <vector>

namespace dotsift {

struct TableCell {
    std::string text, below;  ///< what stands in small letters below it
    double sorted_by = 0;     ///< the number that the column is sorted by; NaN: sorted as text
    enum class Look { plain, words, met, missed, words_missed };
    Look look = Look::plain, below_look = Look::plain;  ///< words: may be broken into lines
};
TableCell text_cell(const std::string& text);
TableCell words_cell(const std::string& text);
TableCell number_cell(double value, const std::string& shown, const std::string& below = {});

struct TableHeading {
    std::string name, unit;
};

struct Table {
    std::string caption;
    std::vector<TableHeading> headings;
    std::vector<std::vector<TableCell>> rows;
    bool sortable = true;
};

/// Its headings and cells, what stands below a cell in brackets after it.
std::vector<std::vector<std::string>> plain_rows(const Table& table);

}  // namespace dotsift
