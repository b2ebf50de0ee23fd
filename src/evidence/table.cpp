#include "evidence/table.hpp"

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

}  // namespace dotsift
