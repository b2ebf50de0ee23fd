#pragma once
// Tables of comma-separated values without quotes, read back.

#include <doctest/doctest.h>

#include <string>
#include <vector>

namespace dotsift::test {

/// The first row holds the headings.
using CsvRows = std::vector<std::vector<std::string>>;

inline CsvRows csv_rows(const std::string& text) {
    CsvRows rows(1, std::vector<std::string>(1));
    for (const char c : text) {
        if (c == '\n')
            rows.emplace_back(1);
        else if (c == ',')
            rows.back().emplace_back();
        else
            rows.back().back() += c;
    }
    rows.pop_back();
    return rows;
}

/// The column whose heading begins so.
inline std::size_t csv_column(const CsvRows& rows, const std::string& name) {
    for (std::size_t c = 0; c < rows[0].size(); ++c)
        if (rows[0][c].rfind(name, 0) == 0) return c;
    FAIL("no column " << name);
    return 0;
}

}  // namespace dotsift::test
