#include "evidence/html.hpp"

#include <fmt/format.h>

#include <cmath>
#include <cstdint>
#include <limits>

#include "evidence/report_script.hpp"
#include "evidence/report_style.hpp"
#include "evidence/webp.hpp"
#include "evidence/xml_text.hpp"

namespace dotsift {

namespace {

std::string base64(const std::string& bytes) {
    static constexpr const char* digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    out.reserve((bytes.size() + 2) / 3 * 4);
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t group = 0;
        for (std::size_t k = 0; k < 3; ++k)
            group = group << 8U | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U);
        for (std::size_t k = 0; k < 4; ++k) out += i + k <= bytes.size() ? digits[group >> (18 - 6 * k) & 63U] : '=';
    }
    return out;
}

}  // namespace

std::string html_figure(const PictureFiles& p, bool vector, const std::string& alternative,
                        const std::string& caption) {
    return fmt::format(
        "<figure><button class=\"zoom\" type=\"button\" title=\"show it large\"><img src=\"data:image/{};base64,{}\" "
        "alt=\"{}\" width=\"{}\" height=\"{}\"></button><figcaption>{}</figcaption></figure>\n",
        vector ? "svg+xml" : "webp",
        base64(vector           ? p.svg
               : p.webp.empty() ? webp_of_png(p.png)
                                : p.webp),
        escaped(alternative), picture_width, picture_height, escaped(caption));
}

HtmlCell text_cell(const std::string& text) {
    return {escaped(text), std::numeric_limits<double>::quiet_NaN(), {}};
}

HtmlCell number_cell(double value, const std::string& shown) {
    return {shown, value, {}};
}

std::string html_table(const std::string& caption, const std::vector<std::string>& headings,
                       const std::vector<std::vector<HtmlCell>>& rows, bool sortable) {
    const bool sorts = sortable && rows.size() > 1;
    std::string out = fmt::format("<div class=\"scroll\"><table{}>", sorts ? " class=\"sortable\"" : "");
    if (!caption.empty()) out += fmt::format("<caption>{}</caption>", escaped(caption));
    out += "<thead><tr>";
    for (std::size_t c = 0; c < headings.size(); ++c) {
        const bool words = !rows.empty() && c < rows.front().size() && rows.front()[c].look.rfind("words", 0) == 0;
        out += fmt::format("<th scope=\"col\"{}>{}</th>", words ? " class=\"words\"" : "", headings[c]);
    }
    out += "</tr></thead><tbody>\n";
    for (const auto& row : rows) {
        out += "<tr>";
        for (std::size_t c = 0; c < row.size(); ++c) {
            const HtmlCell& cell = row[c];
            const std::string look = cell.look.empty() ? "" : fmt::format(" class=\"{}\"", cell.look);
            const std::string key =
                sorts && std::isfinite(cell.sorted_by) ? fmt::format(" data-v=\"{:.9g}\"", cell.sorted_by) : "";
            out += c == 0 ? fmt::format("<th scope=\"row\"{}{}>{}</th>", look, key, cell.shown)
                          : fmt::format("<td{}{}>{}</td>", look, key, cell.shown);
        }
        out += "</tr>\n";
    }
    return out + "</tbody></table></div>\n";
}

std::string html_head(const std::string& title) {
    return fmt::format(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" "
        "content=\"width=device-width, initial-scale=1\">\n<link rel=\"icon\" "
        "href=\"data:,\">\n<title>{}</title>\n<style>{}</style>\n</head>\n<body>\n<main>\n",
        escaped(title), report_style);
}

std::string html_end() {
    return fmt::format("</main>\n<script>{}</script>\n</body>\n</html>\n", report_script);
}

}  // namespace dotsift
