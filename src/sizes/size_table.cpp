#include "sizes/size_table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>

#include "base/errors.hpp"
#include "base/text_table.hpp"

namespace dotsift {

namespace {

[[noreturn]] void refuse(const std::filesystem::path& file, int line, const std::string& what,
                         const std::string& remedy) {
    Place place;
    place.file = file.string();
    place.line = line;
    throw InputError(what, place, remedy);
}

/// Where x, y and size stand, by the names in the heading; what is in brackets behind them is their unit.
std::array<std::size_t, 3> columns_of(const std::vector<std::string>& heading, const std::filesystem::path& file) {
    constexpr std::array wanted{"x", "y", "size"};
    std::array<std::size_t, 3> out{};
    for (std::size_t k = 0; k < wanted.size(); ++k) {
        const auto found = std::find_if(heading.begin(), heading.end(),
                                        [&](const std::string& name) { return column_name(name) == wanted[k]; });
        if (heading.size() != wanted.size() || found == heading.end())
            refuse(file, 1, "the heading does not name the columns x, y and size", "as in: x,y,size");
        out[k] = static_cast<std::size_t>(found - heading.begin());
    }
    return out;
}

/// The interval of `grid` that holds v, and where in it, from 0 to 1.
std::pair<std::size_t, double> place_in(const std::vector<double>& grid, double v) {
    if (grid.size() == 1) return {0, 0};
    const auto above = std::upper_bound(grid.begin(), grid.end(), v) - grid.begin();
    const auto i = static_cast<std::size_t>(
        std::clamp<std::ptrdiff_t>(above - 1, 0, static_cast<std::ptrdiff_t>(grid.size()) - 2));
    return {i, std::clamp((v - grid[i]) / (grid[i + 1] - grid[i]), 0.0, 1.0)};
}

}  // namespace

double SizeTable::at(const Vec2& p) const {
    const auto [i, u] = place_in(x, p[0]);
    const auto [j, v] = place_in(y, p[1]);
    const std::size_t right = std::min(i + 1, x.size() - 1), above = std::min(j + 1, y.size() - 1);
    const auto value = [&](std::size_t a, std::size_t b) { return sizes[b * x.size() + a]; };
    return (value(i, j) * (1 - u) + value(right, j) * u) * (1 - v) +
           (value(i, above) * (1 - u) + value(right, above) * u) * v;
}

SizeTable read_size_table(const std::string& text, const std::filesystem::path& file) {
    std::array<std::size_t, 3> column{0, 1, 2};        // of x, y and size
    std::map<std::pair<double, double>, double> rows;  // by y, then x
    const TextTable content = read_text_table(text);
    for (std::size_t k = 0; k < content.rows.size(); ++k) {
        const auto& [line, fields] = content.rows[k];
        if (k == 0 && !content.headless()) {
            column = columns_of(fields, file);
            continue;
        }
        if (fields.size() != 3)
            refuse(file, line, fmt::format("the row has {} fields", fields.size()), "each row is: x, y, size");
        std::array<double, 3> values{};
        for (std::size_t c = 0; c < 3; ++c) {
            const auto value = content.number(fields[column[c]]);
            if (!value)
                refuse(file, line, fmt::format("\"{}\" is no number", fields[column[c]]), "each row is: x, y, size");
            values[c] = *value;
        }
        constexpr double least_size = 1e-100;
        if (!(values[2] > least_size))
            refuse(file, line, fmt::format("the size is {:g}", values[2]), "it must be greater than zero");
        if (!rows.try_emplace({values[1], values[0]}, values[2]).second)
            refuse(file, line, fmt::format("({:g}, {:g}) stands there twice", values[0], values[1]),
                   "remove one of the rows");
    }
    if (rows.empty()) refuse(file, 1, "the table has no row", "each row is: x, y, size");
    SizeTable table;
    for (const auto& [place, size] : rows) {
        if (table.y.empty() || table.y.back() != place.first) table.y.push_back(place.first);
        if (table.y.size() == 1) table.x.push_back(place.second);
        table.sizes.push_back(size);
    }
    const bool grid = rows.size() == table.x.size() * table.y.size() && [&] {
        std::size_t k = 0;
        for (const auto& [place, size] : rows)
            if (place.second != table.x[k++ % table.x.size()]) return false;
        return true;
    }();
    if (!grid)
        refuse(file, 1, fmt::format("the {} rows make no grid: not every x stands with every y", rows.size()),
               "give a size for each x at each y");
    return table;
}

}  // namespace dotsift
