#pragma once
// Tables of text as people have them: separated by commas, semicolons, tabs or spaces, with decimal points or commas.

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace dotsift {

struct TextTable {
    struct Row {
        int line = 0;
        std::vector<std::string> fields;
    };
    std::vector<Row> rows;  ///< with the heading, if there is one
    char separator = ',';   ///< ' ': runs of spaces
    bool decimal_commas = false;
    int unclosed = 0;                  ///< the line of a quotation mark that is never closed; 0: none
    std::vector<std::string> assumed;  ///< what is not the usual form, in words

    /// The number in a field, which must be nothing else, and finite.
    [[nodiscard]] std::optional<double> number(const std::string& field) const;
    /// Whether each field of the first row is a number, so that it names no columns.
    [[nodiscard]] bool headless() const;
};

/// What a heading calls its column: in small letters, without the unit in brackets behind it.
std::string column_name(const std::string& heading);

/// Empty lines and lines that begin with # are left out. Fields may be quoted (RFC 4180). What separates them is the
/// first of tab, semicolon, comma and space that every line has as often as every other; if none is, the first that the
/// first line has. Decimal commas are those of tables that are separated otherwise and have no decimal point.
TextTable read_text_table(std::string_view text);

}  // namespace dotsift
