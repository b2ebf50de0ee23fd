#include "base/text_table.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>

namespace dotsift {

namespace {

std::string trimmed(const std::string& text) {
    const auto first = text.find_first_not_of(" \t\r");
    return first == std::string::npos ? "" : text.substr(first, text.find_last_not_of(" \t\r") - first + 1);
}

bool is_digit(char c) {
    return std::isdigit(static_cast<unsigned char>(c)) != 0;
}

/// Splits a text into rows; of spaces a run separates, and none at the ends of a line does.
TextTable split(std::string_view text, char separator) {
    TextTable table;
    table.separator = separator;
    TextTable::Row row{1, {}};
    std::string field;
    int line = 1;
    bool quoted = false, was_quoted = false, comment = false;
    const auto end_field = [&] {
        std::string done = trimmed(field);
        if (separator != ' ' || was_quoted || !done.empty()) row.fields.push_back(std::move(done));
        field.clear();
        was_quoted = false;
    };
    const auto end_row = [&] {
        if (!comment) {
            end_field();
            if (row.fields.size() > 1 || (!row.fields.empty() && !row.fields.front().empty()))
                table.rows.push_back(row);
        }
        comment = false;
        field.clear();
        row = {line, {}};
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (c == '\n') ++line;
        if (quoted) {
            if (c != '"')
                field += c;
            else if (i + 1 < text.size() && text[i + 1] == '"')
                field += text[++i];
            else
                quoted = false;
        } else if (c == '\n') {
            end_row();
        } else if (comment) {
            continue;
        } else if (c == '#' && row.fields.empty() && trimmed(field).empty()) {
            comment = true;
        } else if (c == '"') {
            quoted = was_quoted = true;
        } else if (c == separator || (separator == ' ' && c == '\t')) {
            end_field();
        } else {
            field += c;
        }
    }
    if (quoted) table.unclosed = row.line;
    if (comment || !field.empty() || !row.fields.empty()) end_row();
    return table;
}

/// Every row has as many fields as the first, more than one.
bool even(const TextTable& table) {
    return !table.rows.empty() && table.rows.front().fields.size() > 1 &&
           std::all_of(table.rows.begin(), table.rows.end(),
                       [&](const auto& r) { return r.fields.size() == table.rows.front().fields.size(); });
}

/// A field with a space between two digits is two numbers that something else separates.
bool holds_two_numbers(const TextTable& table) {
    const auto two = [](const std::string& f) {
        for (std::size_t k = 1; k + 1 < f.size(); ++k)
            if (f[k] == ' ' && is_digit(f[k - 1]) && (is_digit(f[k + 1]) || f[k + 1] == '-')) return true;
        return false;
    };
    return std::any_of(table.rows.begin(), table.rows.end(),
                       [&](const auto& r) { return std::any_of(r.fields.begin(), r.fields.end(), two); });
}

/// Digits around one comma, with a sign and an exponent if they like.
bool has_decimal_comma(const std::string& field) {
    const auto comma = field.find(',');
    if (comma == std::string::npos || comma == 0 || comma + 1 == field.size()) return false;
    return is_digit(field[comma - 1]) && is_digit(field[comma + 1]) &&
           std::all_of(field.begin(), field.end(),
                       [](char c) { return is_digit(c) || c == ',' || c == '+' || c == '-' || c == 'e' || c == 'E'; });
}

bool has_decimal_point(const std::string& field) {
    const auto point = field.find('.');
    return point != std::string::npos && std::all_of(field.begin(), field.end(), [](char c) {
               return is_digit(c) || c == '.' || c == '+' || c == '-' || c == 'e' || c == 'E';
           });
}

}  // namespace

std::optional<double> TextTable::number(const std::string& field) const {
    std::string text = field;
    if (decimal_commas)
        if (const auto comma = text.find(','); comma != std::string::npos) text[comma] = '.';
    double value = 0;
    const char *first = text.data(), *end = first + text.size();
    if (first < end && *first == '+') ++first;
    const auto [next, error] = std::from_chars(first, end, value);
    if (error != std::errc() || next != end || !std::isfinite(value)) return {};
    return value;
}

bool TextTable::headless() const {
    return !rows.empty() && std::all_of(rows.front().fields.begin(), rows.front().fields.end(),
                                        [&](const std::string& f) { return number(f).has_value(); });
}

std::string column_name(const std::string& heading) {
    std::string name = trimmed(heading.substr(0, heading.find_first_of("[(")));
    std::transform(name.begin(), name.end(), name.begin(),
                   [](char c) { return static_cast<char>(std::tolower(static_cast<unsigned char>(c))); });
    return name;
}

TextTable read_text_table(std::string_view text) {
    if (text.substr(0, 3) == "\xEF\xBB\xBF") text.remove_prefix(3);
    constexpr std::array separators{'\t', ';', ',', ' '};
    constexpr std::array words{"tabs", "semicolons", "commas", "spaces"};
    std::array<TextTable, separators.size()> tables;
    std::optional<std::size_t> chosen;
    for (std::size_t k = 0; k < separators.size(); ++k) {
        tables[k] = split(text, separators[k]);
        if (!chosen && even(tables[k]) && !(separators[k] == ',' && holds_two_numbers(tables[k]))) chosen = k;
    }
    for (std::size_t k = 0; k < separators.size() && !chosen; ++k)
        if (!tables[k].rows.empty() && tables[k].rows.front().fields.size() > 1) chosen = k;
    const std::size_t k = chosen.value_or(2);
    TextTable out = std::move(tables[k]);
    if (separators[k] != ',') {
        out.assumed.push_back(std::string("its columns are separated by ") + words[k]);
        bool commas = false, points = false;
        for (const auto& row : out.rows)
            for (const auto& f : row.fields) {
                commas = commas || has_decimal_comma(f);
                points = points || has_decimal_point(f);
            }
        out.decimal_commas = commas && !points;
        if (out.decimal_commas) out.assumed.emplace_back("its numbers have decimal commas");
    }
    return out;
}

}  // namespace dotsift
