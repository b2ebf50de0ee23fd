#include "statistics/level_table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "base/text_table.hpp"

namespace dotsift {

namespace {

constexpr std::size_t least_table_levels = 3;

class TableReader {
  public:
    TableReader(TextTable table, const SizeColumn& size, Problems& problems)
        : table_(std::move(table)), rows_(table_.rows), size_(size), problems_(problems) {}

    std::vector<TableSeries> read(const std::vector<std::string>& wanted) {
        if (!rows_.empty()) name_columns();
        if (rows_.empty()) {
            problems_.add({1, 0}, "the table is empty", "the first row names the columns, every other one is a level");
            return {};
        }
        const auto& names = rows_.front().fields;
        for (std::size_t k = 0; k < names.size(); ++k)
            if (std::find(names.begin(), names.begin() + static_cast<std::ptrdiff_t>(k), names[k]) !=
                names.begin() + static_cast<std::ptrdiff_t>(k))
                problems_.add({rows_.front().line, 0}, fmt::format("column \"{}\" is there twice", names[k]));
        const auto of_size = size_.name.empty() ? std::optional<std::size_t>(0) : column(size_.name, "size");
        std::vector<std::size_t> columns;
        for (const auto& name : wanted)
            if (const auto c = column(name, "values")) columns.push_back(*c);
        if (wanted.empty())
            for (std::size_t c = 0; c < names.size(); ++c)
                if (c != of_size && !holds_text(c)) columns.push_back(c);
        if (rows_.size() - 1 < least_table_levels)
            problems_.add({rows_.back().line, 0},
                          fmt::format("the table has {} level{}, but an order needs three", rows_.size() - 1,
                                      rows_.size() == 2 ? "" : "s"),
                          "solve on another mesh, all sizes divided by the same ratio");
        if (columns.empty()) problems_.add({rows_.front().line, 0}, "the table has no column of values");
        for (std::size_t k = 1; k < rows_.size(); ++k)
            if (rows_[k].fields.size() != names.size())
                problems_.add({rows_[k].line, 0}, fmt::format("the row has {} fields, but {} columns are named",
                                                              rows_[k].fields.size(), names.size()));
        if (!problems_.empty() || !of_size) return {};
        guess_counts(*of_size);
        const std::vector<double> sizes = read_sizes(*of_size);
        std::vector<TableSeries> out;
        for (const auto c : columns) {
            TableSeries s{names[c], {}};
            for (std::size_t k = 1; k < rows_.size(); ++k)
                if (const auto v = number(k, c)) s.levels.push_back({sizes[k - 1], *v});
            out.push_back(std::move(s));
        }
        if (!problems_.empty()) return {};
        for (auto& s : out)
            if (sizes.front() < sizes.back()) std::reverse(s.levels.begin(), s.levels.end());
        return out;
    }

  private:
    /// A first row of numbers alone is a level, not the columns' names.
    void name_columns() {
        if (!table_.headless()) return;
        const auto& first = rows_.front().fields;
        TextTable::Row names{0, {}};
        for (std::size_t c = 0; c < first.size(); ++c) names.fields.push_back(fmt::format("column {}", c + 1));
        problems_.warn({rows_.front().line, 0}, "the first row is all numbers: it is taken for a level",
                       "columns are called " + quoted_list(names.fields));
        rows_.insert(rows_.begin(), names);
    }

    /// A column without any number is a remark; it is left out, and told.
    bool holds_text(std::size_t c) {
        std::size_t texts = 0, numbers = 0;
        for (std::size_t k = 1; k < rows_.size(); ++k) {
            if (c >= rows_[k].fields.size() || rows_[k].fields[c].empty()) continue;
            ++(table_.number(rows_[k].fields[c]) ? numbers : texts);
        }
        if (texts == 0 || numbers > 0) return false;
        problems_.warn({rows_.front().line, 0},
                       fmt::format("column \"{}\" holds text: it is left out", rows_.front().fields[c]),
                       "--values names the columns that count");
        return true;
    }

    /// Whole numbers by the dozen are no sizes: where nothing was said of the column, they are taken for counts.
    void guess_counts(std::size_t c) {
        constexpr double least_count = 24;
        if (!size_.name.empty() || size_.counts) return;
        for (std::size_t k = 1; k < rows_.size(); ++k) {
            const auto v = table_.number(rows_[k].fields[c]);
            if (!v || *v < least_count || *v != std::floor(*v)) return;
        }
        size_.counts = true;
        problems_.warn({rows_.front().line, 0},
                       fmt::format("column \"{}\" holds whole numbers: they are taken for counts of elements in {} "
                                   "dimensions",
                                   rows_.front().fields[c], size_.dimension),
                       fmt::format("--count \"{0}\" --dimension N says so; if they are sizes, --size \"{0}\"",
                                   rows_.front().fields[c]));
    }

    std::optional<std::size_t> column(const std::string& name, const char* role) {
        const auto& names = rows_.front().fields;
        const auto found = std::find(names.begin(), names.end(), name);
        if (found != names.end()) return static_cast<std::size_t>(found - names.begin());
        const std::string near = nearest(name, names);
        problems_.add({rows_.front().line, 0}, fmt::format("there is no column \"{}\" for the {}", name, role),
                      near.empty() ? "columns are " + quoted_list(names) : fmt::format("did you mean \"{}\"?", near));
        return {};
    }

    std::optional<double> number(std::size_t row, std::size_t c) {
        const std::string& text = rows_[row].fields[c];
        const auto value = table_.number(text);
        if (value) return value;
        const std::string& name = rows_.front().fields[c];
        problems_.add(
            {rows_[row].line, 0},
            text.empty() ? fmt::format("column \"{}\" has no value", name)
                         : fmt::format("column \"{}\" has \"{}\", which is no number", name, text),
            text.empty() ? "remove the level, or fill in the value" : "write numbers as in 1234.5 or 1.2345e3");
        return {};
    }

    std::vector<double> read_sizes(std::size_t c) {
        std::vector<double> sizes;
        const std::string& name = rows_.front().fields[c];
        for (std::size_t k = 1; k < rows_.size(); ++k) {
            const auto v = number(k, c);
            if (v && !(*v > 0))
                problems_.add({rows_[k].line, 0},
                              fmt::format("column \"{}\" is {:g}, but must be above zero", name, *v));
            sizes.push_back(!v || !(*v > 0) ? NAN : size_.counts ? std::pow(*v, -1.0 / size_.dimension) : *v);
        }
        const bool falls = sizes.front() > sizes.back();
        for (std::size_t k = 1; k < sizes.size(); ++k) {
            const int line = rows_[k + 1].line;
            if (sizes[k] == sizes[k - 1])
                problems_.add({line, 0}, fmt::format("column \"{}\" is the same as in the row before", name),
                              "each level needs another mesh");
            else if (std::isfinite(sizes[k]) && std::isfinite(sizes[k - 1]) && (sizes[k] < sizes[k - 1]) != falls)
                problems_.add(
                    {line, 0},
                    fmt::format("column \"{}\" neither rises nor falls all the way: this row turns back", name),
                    "put the levels in order, from coarse to fine or from fine to coarse");
        }
        return sizes;
    }

    TextTable table_;
    std::vector<TextTable::Row>& rows_;
    SizeColumn size_;
    Problems& problems_;
};

}  // namespace

std::vector<TableSeries> read_level_table(std::string_view text, const SizeColumn& size,
                                          const std::vector<std::string>& values, Problems& problems) {
    TextTable table = read_text_table(text);
    if (table.unclosed > 0) problems.add({table.unclosed, 0}, "a quotation mark is never closed");
    if (!table.assumed.empty())
        problems.warn({1, 0}, fmt::format("of the table it is assumed that {}", fmt::join(table.assumed, ", and ")),
                      "numbers as in 1234.5, separated by commas, need no such guess");
    return TableReader(std::move(table), size, problems).read(values);
}

}  // namespace dotsift
