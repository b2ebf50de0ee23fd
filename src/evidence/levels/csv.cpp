#include "evidence/levels/csv.hpp"

#include <fmt/format.h>

#include <cmath>

namespace dotsift {

std::string csv_field(const std::string& text) {
    if (text.find_first_of(",\"\n\r") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"') out += '"';
        out += c;
    }
    return out + "\"";
}

std::string csv_number(double v) {
    return std::isfinite(v) ? fmt::format("{:.17g}", v) : "";
}

}  // namespace dotsift
