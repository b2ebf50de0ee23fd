#include "sizes/size_table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <numeric>
#include <set>
#include <tuple>

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

template <int D>
constexpr std::size_t column_count = static_cast<std::size_t>(D) + 1;
template <int D>
using Row = std::array<double, column_count<D>>;

/// What the columns are called, and what a row or heading looks like.
template <int D>
constexpr std::array<const char*, column_count<D>> column_names() {
    if constexpr (D == 2)
        return {"x", "y", "size"};
    else
        return {"x", "y", "z", "size"};
}
template <int D>
constexpr const char* row_looks = D == 2 ? "each row is: x, y, size" : "each row is: x, y, z, size";

/// Where the columns stand, by their names in the heading; what is in brackets behind them is their unit.
template <int D>
std::array<std::size_t, column_count<D>> columns_of(const std::vector<std::string>& heading,
                                                    const std::filesystem::path& file) {
    std::array<std::size_t, column_count<D>> out{};
    for (std::size_t k = 0; k < out.size(); ++k) {
        const auto found = std::find_if(heading.begin(), heading.end(), [&](const std::string& name) {
            return column_name(name) == column_names<D>()[k];
        });
        if (heading.size() != out.size() || found == heading.end())
            refuse(file, 1,
                   D == 2 ? "the heading does not name the columns x, y and size"
                          : "the heading does not name the columns x, y, z and size",
                   D == 2 ? "as in: x,y,size" : "as in: x,y,z,size");
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

/// The last axis first: what the rows are sorted by.
template <int D>
Row<D> turned_round(const Row<D>& row) {
    Row<D> out = row;
    std::reverse(out.begin(), out.end() - 1);
    return out;
}

}  // namespace

template <int D>
double SizeTableIn<D>::at(const Vec<D>& p) const {
    // From the corners of the cell, one axis after the other.
    std::array<double, 1U << static_cast<unsigned>(D)> value{};
    std::array<double, static_cast<std::size_t>(D)> share{};
    std::array<std::size_t, static_cast<std::size_t>(D)> low{};
    for (std::size_t a = 0; a < low.size(); ++a) std::tie(low[a], share[a]) = place_in(axes[a], p[a]);
    for (std::size_t c = 0; c < value.size(); ++c) {
        std::size_t index = 0;
        for (std::size_t a = low.size(); a-- > 0;)
            index = index * axes[a].size() + std::min(low[a] + (c >> a & 1U), axes[a].size() - 1);
        value[c] = sizes[index];
    }
    std::size_t count = value.size();
    for (std::size_t a = 0; a < low.size(); ++a) {
        count /= 2;
        for (std::size_t c = 0; c < count; ++c) value[c] = value[2 * c] * (1 - share[a]) + value[2 * c + 1] * share[a];
    }
    return value[0];
}

template <int D>
SizeTableIn<D> read_size_table(const std::string& text, const std::filesystem::path& file) {
    std::array<std::size_t, column_count<D>> column{};
    std::iota(column.begin(), column.end(), 0);
    std::vector<std::pair<Row<D>, int>> rows;  // with their lines
    const TextTable content = read_text_table(text);
    for (std::size_t k = 0; k < content.rows.size(); ++k) {
        const auto& [line, fields] = content.rows[k];
        if (k == 0 && !content.headless()) {
            column = columns_of<D>(fields, file);
            continue;
        }
        if (fields.size() != column.size())
            refuse(file, line, fmt::format("the row has {} fields", fields.size()), row_looks<D>);
        Row<D> row{};
        for (std::size_t c = 0; c < row.size(); ++c) {
            const auto value = content.number(fields[column[c]]);
            if (!value) refuse(file, line, fmt::format("\"{}\" is no number", fields[column[c]]), row_looks<D>);
            row[c] = *value;
        }
        constexpr double least_size = 1e-100;
        if (!(row.back() > least_size))
            refuse(file, line, fmt::format("the size is {:g}", row.back()), "it must be greater than zero");
        rows.emplace_back(turned_round<D>(row), line);
    }
    if (rows.empty()) refuse(file, 1, "the table has no row", row_looks<D>);
    std::stable_sort(rows.begin(), rows.end(), [](const auto& a, const auto& b) {
        return std::lexicographical_compare(a.first.begin(), a.first.end() - 1, b.first.begin(), b.first.end() - 1);
    });
    for (std::size_t k = 1; k < rows.size(); ++k)
        if (std::equal(rows[k].first.begin(), rows[k].first.end() - 1, rows[k - 1].first.begin())) {
            const Row<D> at = turned_round<D>(rows[k].first);
            refuse(file, rows[k].second,
                   fmt::format("({:g}) stands there twice", fmt::join(at.begin(), at.end() - 1, ", ")),
                   "remove one of the rows");
        }
    SizeTableIn<D> table;
    std::size_t whole = 1;
    for (std::size_t a = 0; a < table.axes.size(); ++a) {
        std::set<double> values;
        for (const auto& [row, line] : rows) values.insert(row[table.axes.size() - 1 - a]);
        table.axes[a].assign(values.begin(), values.end());
        whole *= table.axes[a].size();
        if (whole > rows.size()) break;
    }
    // As many different places as the grid has, each of them on it: they are the grid.
    if (whole != rows.size())
        refuse(file, 1,
               fmt::format("the {} rows make no grid: not every {} stands with every {}", rows.size(),
                           D == 2 ? "x" : "x and y", D == 2 ? "y" : "z"),
               D == 2 ? "give a size for each x at each y" : "give a size for each x and y at each z");
    for (const auto& [row, line] : rows) table.sizes.push_back(row.back());
    return table;
}

template struct SizeTableIn<2>;
template struct SizeTableIn<3>;
template SizeTableIn<2> read_size_table<2>(const std::string&, const std::filesystem::path&);
template SizeTableIn<3> read_size_table<3>(const std::string&, const std::filesystem::path&);

}  // namespace dotsift
