#include "evidence/report/html.hpp"

#include <fmt/format.h>

#include <cmath>
#include <cstdint>

#include "evidence/drawing/page_pictures.hpp"
#include "evidence/levels/xml_text.hpp"
#include "evidence/report/report_script.hpp"
#include "evidence/report/report_style.hpp"

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

const char* class_of(TableCell::Look look) {
    switch (look) {
        case TableCell::Look::plain:
            return "";
        case TableCell::Look::words:
            return "words";
        case TableCell::Look::met:
            return "met";
        case TableCell::Look::missed:
            return "missed";
        case TableCell::Look::words_missed:
            return "words missed";
    }
    return "";
}

}  // namespace

std::string html_figure(const PictureFiles& p, bool vector, const std::string& alternative, const std::string& caption,
                        const std::string& id) {
    return fmt::format(
        "<figure{}><button class=\"zoom\" type=\"button\" title=\"show it large\"><img{} "
        "src=\"data:image/{};base64,{}\" "
        "alt=\"{}\" width=\"{}\" height=\"{}\"></button><figcaption>{}</figcaption></figure>\n",
        id.empty() ? "" : fmt::format(" id=\"{}\"", escaped(id)), vector ? " class=\"chart\"" : "",
        vector ? "svg+xml" : "jpeg", base64(vector ? p.svg : page_picture(p).jpeg), escaped(alternative), picture_width,
        picture_height, escaped(caption));
}

std::string html_table(const Table& table) {
    if (table.rows.empty()) return {};
    const bool sorts = table.sortable && table.rows.size() > 1;
    std::string out = fmt::format("<div class=\"scroll\"><table{}>", sorts ? " class=\"sortable\"" : "");
    if (!table.caption.empty()) out += fmt::format("<caption>{}</caption>", escaped(table.caption));
    out += "<thead><tr>";
    for (std::size_t c = 0; c < table.headings.size(); ++c) {
        const auto& h = table.headings[c];
        const auto& first = table.rows.front();
        const bool words = c < first.size() &&
                           (first[c].look == TableCell::Look::words || first[c].look == TableCell::Look::words_missed);
        out += fmt::format("<th scope=\"col\"{}>{}{}</th>", words ? " class=\"words\"" : "", escaped(h.name),
                           h.unit.empty() ? "" : fmt::format(" <span class=\"unit\">{}</span>", escaped(h.unit)));
    }
    out += "</tr></thead><tbody>\n";
    for (const auto& row : table.rows) {
        out += "<tr>";
        for (std::size_t c = 0; c < row.size(); ++c) {
            const TableCell& cell = row[c];
            const std::string look =
                cell.look == TableCell::Look::plain ? "" : fmt::format(" class=\"{}\"", class_of(cell.look));
            const std::string key =
                sorts && std::isfinite(cell.sorted_by) ? fmt::format(" data-v=\"{:.9g}\"", cell.sorted_by) : "";
            std::string shown = escaped(cell.text);
            if (!cell.below.empty())
                shown +=
                    fmt::format("<span class=\"sub {}\">{}</span>", class_of(cell.below_look), escaped(cell.below));
            out += c == 0 ? fmt::format("<th scope=\"row\"{}{}>{}</th>", look, key, shown)
                          : fmt::format("<td{}{}>{}</td>", look, key, shown);
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
