#include "study/file/read_tables.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <utility>

#include "base/errors.hpp"
#include "base/text_table.hpp"
#include "study/input_files.hpp"

namespace dotsift {

namespace {

constexpr std::size_t most_bytes = 256U << 20U;
constexpr std::size_t most_points = 200'000;

/// Stands in for a table with a fault, so that each formula that calls it does not bring another one.
void make_empty(ValueTable& t) {
    t.at = {0, 1};
    t.value = {1, 1};
    t.scattered = nullptr;
    t.faulty = true;
}

/// Straight between points of which the first coordinates ascend.
void set_points(const Section& s, const std::string& key, const std::vector<Vec2>& points, ValueTable& t) {
    for (const Vec2& p : points) {
        if (!t.at.empty() && p[0] <= t.at.back()) {
            s.fault(key, fmt::format("must ascend, but {:g} follows {:g}", p[0], t.at.back()));
            break;
        }
        t.at.push_back(p[0]);
        t.value.push_back(p[1]);
    }
    if (t.at.size() >= 2) return;
    make_empty(t);
    s.fault(key, "must have at least two entries", "as in [[0, 1], [10, 2.5]]");
}

/// Numbers of a column by what its heading says in brackets, as in "x [mm]": this much of the study's units.
double factor_of(const std::string& heading, const UnitSystem& units) {
    const auto open = heading.find_first_of("[("), close = heading.find_last_of("])");
    if (open == std::string::npos || close == std::string::npos || close < open) return 1;
    const auto unit = parse_measure("1 " + heading.substr(open + 1, close - open - 1));
    return unit ? units.from_si(unit->in_si, unit->dimension) : 1;
}

/// The columns of a file, by name or by place.
struct Columns {
    std::size_t x = 0, value = 1;
    std::optional<std::size_t> y;
};

std::optional<Columns> columns_of(const Section& s, const TextTable& table) {
    const auto wanted = s.text("value");
    const auto& first = table.rows.front().fields;
    Columns out;
    if (table.headless()) {
        if (wanted) {
            s.fault("value", "names a column, but the file names none", "give the file a first row of names");
            return {};
        }
        if (first.size() != 2 && first.size() != 3) {
            s.fault("file", fmt::format("has {} columns and no names for them", first.size()),
                    "x and value, or x, y and value; or give the file a first row of names");
            return {};
        }
        if (first.size() == 3) out = {0, 2, 1};
        return out;
    }
    std::vector<std::string> names;
    names.reserve(first.size());
    for (const auto& heading : first) names.push_back(column_name(heading));
    const auto place = [&](const std::string& name) {
        return static_cast<std::size_t>(std::find(names.begin(), names.end(), column_name(name)) - names.begin());
    };
    const std::size_t y = place("y");
    out.x = place("x");
    if (out.x == names.size() && y == names.size() && names.size() >= 2) out.x = 0;  // over anything else
    if (out.x == names.size()) {
        s.fault("file", "has no column x", "its first row names x, y and the values, or x and the values");
        return {};
    }
    if (y < names.size()) out.y = y;
    std::vector<std::size_t> rest;
    for (std::size_t c = 0; c < names.size(); ++c)
        if (c != out.x && c != out.y) rest.push_back(c);
    if (wanted) {
        out.value = place(*wanted);
        if (out.value == names.size()) {
            const std::string near = nearest(column_name(*wanted), names);
            s.fault("value", fmt::format("is \"{}\", but the file has no such column", *wanted),
                    near.empty() ? "columns are " + quoted_list(names) : fmt::format("did you mean \"{}\"?", near));
            return {};
        }
        return out;
    }
    if (rest.size() != 1) {
        s.fault("file", fmt::format("has {} columns of values", rest.size()),
                "say which one counts, as in: value = \"T\"");
        return {};
    }
    out.value = rest.front();
    return out;
}

/// Rows of a file as points (x, y, value), in the study's units; of a file without y it is 0. Nothing if there is a
/// fault, which is noted.
std::optional<std::vector<std::array<double, 3>>> rows_of(const Section& s, const std::string& file,
                                                          const TextTable& table, const Columns& columns) {
    const std::size_t begin = table.headless() ? 0 : 1;
    std::array<double, 3> factors{1, 1, 1};
    const std::array<std::optional<std::size_t>, 3> places{columns.x, columns.y, columns.value};
    std::vector<std::array<double, 3>> out;
    for (std::size_t c = 0; c < 3 && begin == 1; ++c)
        if (places[c]) factors[c] = factor_of(table.rows.front().fields[*places[c]], s.context().units);
    for (std::size_t k = begin; k < table.rows.size(); ++k) {
        const auto& [line, fields] = table.rows[k];
        std::array<double, 3> row{};
        for (std::size_t c = 0; c < 3; ++c) {
            if (!places[c]) continue;
            const auto v = *places[c] < fields.size() ? table.number(fields[*places[c]]) : std::nullopt;
            if (!v) {
                s.fault(
                    "file",
                    *places[c] < fields.size()
                        ? fmt::format("names {}, where line {} has \"{}\" for a number", file, line, fields[*places[c]])
                        : fmt::format("names {}, where line {} has {} columns only", file, line, fields.size()),
                    "write numbers as in 1234.5 or 1.2345e3");
                return {};
            }
            row[c] = *v * factors[c];
        }
        out.push_back(row);
    }
    if (out.empty()) s.fault("file", fmt::format("names {}, which has no row", file), "each row is a point");
    if (out.size() > most_points)
        s.fault("file", fmt::format("names {} with {} rows, but at most {} are read", file, out.size(), most_points),
                "thin them out");
    return out.empty() || out.size() > most_points ? std::nullopt : std::optional(out);
}

void read_file_of_values(const Section& s, Study& study, ValueTable& t) {
    const auto file = s.text("file");
    if (!file) return make_empty(t);
    study.table_files.emplace_back(*file);
    std::optional<std::vector<std::array<double, 3>>> rows;
    std::optional<Columns> columns;
    try {
        const TextTable table = read_text_table(read_input(study.path, *file, most_bytes));
        if (table.rows.empty())
            s.fault("file", fmt::format("names {}, which is empty", *file), "each row is a point");
        else if (table.unclosed > 0)
            s.fault("file",
                    fmt::format("names {}, where a quotation mark in line {} is never closed", *file, table.unclosed));
        else if ((columns = columns_of(s, table)))
            rows = rows_of(s, *file, table, *columns);
        if (rows && !table.assumed.empty())
            s.context().problems->warn(s.where("file"), fmt::format("{}.file: of {} it is assumed that {}", s.shown(),
                                                                    *file, fmt::join(table.assumed, ", and ")));
    } catch (const Error& e) {
        s.fault("file", fmt::format("names {}: {}", *file, e.what()),
                "give the path of the file, from the study's folder");
    }
    if (!rows) return make_empty(t);
    if (!columns->y) {
        std::vector<Vec2> points;
        for (const auto& r : *rows) points.push_back({{r[0], r[2]}});
        return set_points(s, "file", points, t);
    }
    std::map<std::pair<double, double>, double> places;
    for (const auto& r : *rows)
        if (!places.try_emplace({r[0], r[1]}, r[2]).second) {
            s.fault("file", fmt::format("names {}, where ({:g}, {:g}) stands twice", *file, r[0], r[1]),
                    "remove one of the rows");
            return make_empty(t);
        }
    std::vector<Vec2> points;
    std::vector<double> values;
    for (const auto& [place, value] : places) {
        points.push_back({{place.first, place.second}});
        values.push_back(value);
    }
    t.scattered = std::make_shared<ScatteredValues>(std::move(points), std::move(values));
}

}  // namespace

std::shared_ptr<const std::vector<ValueTable>> read_value_tables(const Section& top, Study& study) {
    auto tables = std::make_shared<std::vector<ValueTable>>();
    static const std::vector<std::string> sources{"points", "file"};
    each_named(top, "table", [&](const Section& s, const std::string& name) {
        ValueTable t;
        t.name = name;
        t.where = s.where();
        if (is_function_of_formulas(name)) {
            s.fault("", fmt::format("cannot be named so: formulas know a function {}", name), "choose another name");
            return;
        }
        const auto source = s.one_of(sources, "as in: points = [[0, 1], [10, 2.5]]");
        if (s.has("value") && source != 1u) s.fault("value", "goes with file", "remove it");
        if (source == 0u)
            set_points(s, "points", s.points("points"), t);
        else if (source == 1u)
            read_file_of_values(s, study, t);
        else
            make_empty(t);
        tables->push_back(std::move(t));
    });
    return tables;
}

}  // namespace dotsift
