#include "evidence/report/table.hpp"

#include <limits>

namespace dotsift {

TableCell text_cell(const std::string& text) {
    TableCell cell;
    cell.text = text;
    cell.sorted_by = std::numeric_limits<double>::quiet_NaN();
    return cell;
}

TableCell words_cell(const std::string& text) {
    TableCell cell = text_cell(text);
    cell.look = TableCell::Look::words;
    return cell;
}

TableCell number_cell(double value, const std::string& shown, const std::string& below) {
    TableCell cell;
    cell.text = shown;
    cell.below = below;
    cell.sorted_by = value;
    return cell;
}

std::vector<std::vector<std::string>> plain_rows(const Table& table) {
    std::vector<std::vector<std::string>> rows(1);
    for (const auto& h : table.headings) rows[0].push_back(h.unit.empty() ? h.name : h.name + " " + h.unit);
    for (const auto& cells : table.rows) {
        rows.emplace_back();
        for (const auto& c : cells)
            rows.back().push_back(c.below.empty() ? c.text : c.text.empty() ? c.below : c.text + " (" + c.below + ")");
    }
    return rows;
}

}  // namespace dotsift
