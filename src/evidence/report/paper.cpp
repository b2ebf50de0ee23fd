#include "evidence/report/paper.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <sstream>

#include "evidence/drawing/page_pictures.hpp"

namespace dotsift {

namespace {

constexpr double margin = 42, bottom = Paper::height - 50;
constexpr double text_width = Paper::width - 2 * margin;
constexpr double leading = 1.4;
constexpr double gap = 14;          // between figures
constexpr double cell_padding = 5;  // on both sides of a cell's text
constexpr double table_size = 7.5, smallest_table_size = 4.5;
constexpr double figure_ratio = 800.0 / 1280.0;

Colour colour_of(TableCell::Look look) {
    switch (look) {
        case TableCell::Look::met:
            return {0, 0.41, 0.31};
        case TableCell::Look::missed:
        case TableCell::Look::words_missed:
            return {0.66, 0.26, 0};
        default:
            return ink;
    }
}

bool of_words(TableCell::Look look) {
    return look == TableCell::Look::words || look == TableCell::Look::words_missed;
}

/// Makes the columns of words together as wide as `room`, if they are wider: each as before, relative to the others,
/// but none narrower than its least width, as long as all of these have room.
void share_out(std::vector<double>& widths, const std::vector<double>& least, const std::vector<char>& words,
               double room) {
    std::vector<char> open = words;
    double whole = 0, all_least = 0;
    for (std::size_t c = 0; c < widths.size(); ++c)
        if (words[c]) whole += widths[c], all_least += least[c];
    if (whole <= room) return;
    const bool fits = all_least <= room;
    for (bool again = true; again;) {
        again = false;
        for (std::size_t c = 0; c < widths.size() && fits; ++c) {
            if (!open[c] || widths[c] * room / whole >= least[c]) continue;
            open[c] = 0;
            whole -= widths[c];
            room -= least[c];
            widths[c] = least[c];
            again = true;
        }
    }
    for (std::size_t c = 0; c < widths.size(); ++c)
        if (open[c]) widths[c] *= room / whole;
}

/// The position behind the character that begins at `at`.
std::size_t after_character(const std::string& text, std::size_t at) {
    ++at;
    while (at < text.size() && (static_cast<unsigned char>(text[at]) & 0xC0U) == 0x80U) ++at;
    return std::min(at, text.size());
}

}  // namespace

Paper::Paper(Canvas& canvas, std::function<void()> next_page, std::string footer)
    : canvas_(canvas), show_page_(std::move(next_page)), footer_(std::move(footer)), y_(margin) {}

double Paper::room() const {
    return bottom - y_;
}

void Paper::need(double space) {
    if (room() < space) next_page();
}

void Paper::next_page() {
    finish();
    show_page_();
    ++page_;
    y_ = margin;
}

void Paper::finish() {
    canvas_.text({{margin, height - 28}}, footer_, {.size = 7.5, .colour = faint});
    canvas_.text({{width - margin, height - 28}}, fmt::format("{}", page_),
                 {.size = 7.5, .colour = faint, .align = Canvas::Align::right});
}

std::vector<std::string> Paper::lines_of(const std::string& text, double size, bool strong, double most) {
    const Canvas::TextStyle style{.size = size, .strong = strong};
    std::vector<std::string> lines;
    std::string line;
    const auto put = [&](std::string word) {
        // A word that is wider than the line is broken where it must be; UTF-8 characters stay whole.
        while (canvas_.text_width(word, style) > most) {
            std::size_t cut = after_character(word, 0);
            for (std::size_t next = after_character(word, cut);
                 cut < word.size() && canvas_.text_width(word.substr(0, next), style) <= most;
                 next = after_character(word, cut))
                cut = next;
            if (cut >= word.size()) break;
            if (!line.empty()) lines.push_back(line);
            line.clear();
            lines.push_back(word.substr(0, cut));
            word = word.substr(cut);
        }
        const std::string longer = line.empty() ? word : line + " " + word;
        if (canvas_.text_width(longer, style) <= most) {
            line = longer;
            return;
        }
        lines.push_back(line);
        line = word;
    };
    std::size_t at = 0;
    while (at < text.size()) {
        const std::size_t end = std::min(text.find(' ', at), text.size());
        if (end > at) put(text.substr(at, end - at));
        at = end + 1;
    }
    if (!line.empty() || lines.empty()) lines.push_back(line);
    return lines;
}

void Paper::title(const std::string& text, const std::string& below) {
    for (const auto& line : lines_of(text, 20, true, text_width)) {
        canvas_.text({{margin, y_ + 18}}, line, {.size = 20, .strong = true});
        y_ += 26;
    }
    y_ += 2;
    paragraph(below, faint, 9.5);
    y_ += 4;
}

void Paper::heading(const std::string& text, double keep) {
    need(42 + keep);
    y_ += 14;
    canvas_.line({{{margin, y_}}, {{width - margin, y_}}}, {0.85, 0.87, 0.88}, 0.7);
    canvas_.text({{margin, y_ + 18}}, text, {.size = 13, .strong = true});
    y_ += 28;
}

void Paper::paragraph(const std::string& text, const Colour& colour, double size, bool strong) {
    for (const auto& line : lines_of(text, size, strong, text_width)) {
        need(size * leading);
        canvas_.text({{margin, y_ + size}}, line, {.size = size, .strong = strong, .colour = colour});
        y_ += size * leading;
    }
    y_ += 2;
}

void Paper::bullet(const std::string& text) {
    constexpr double size = 9.5, indent = 12;
    bool first = true;
    for (const auto& line : lines_of(text, size, false, text_width - indent)) {
        need(size * leading);
        if (first) canvas_.text({{margin + 1, y_ + size}}, "•", {.size = size});
        canvas_.text({{margin + indent, y_ + size}}, line, {.size = size});
        y_ += size * leading;
        first = false;
    }
    y_ += 2;
}

void Paper::table(const Table& t) {
    if (t.rows.empty()) return;
    const std::size_t columns = t.headings.size();
    const auto heading_of = [&](std::size_t c) {
        const auto& h = t.headings[c];
        return h.unit.empty() ? h.name : h.name + " " + h.unit;
    };
    // Columns of words share what the others leave.
    std::vector<double> widths, least;  // least: no word is broken
    std::vector<char> words;
    const auto longest_word = [&](const std::string& text, const Canvas::TextStyle& style) {
        double longest = 0;
        std::istringstream parts(text);
        for (std::string word; parts >> word;) longest = std::max(longest, canvas_.text_width(word, style));
        return longest;
    };
    double size = table_size, fixed = 0, free = 0;
    for (;; size -= 0.25) {
        const Canvas::TextStyle plain{.size = size}, strong{.size = size, .strong = true}, small{.size = 0.9 * size};
        widths.assign(columns, 0.0);
        least.assign(columns, 0.0);
        words.assign(columns, 0);
        fixed = free = 0;
        for (std::size_t c = 0; c < columns; ++c) {
            for (const auto& row : t.rows) {
                words[c] = words[c] || of_words(row[c].look) ? 1 : 0;
                widths[c] = std::max(
                    {widths[c], canvas_.text_width(row[c].text, plain), canvas_.text_width(row[c].below, small)});
                least[c] = std::max({least[c], longest_word(row[c].text, plain), longest_word(row[c].below, small)});
            }
            // A heading may be broken between its words.
            const double longest = longest_word(heading_of(c), strong);
            least[c] = std::max(least[c], longest) + 2 * cell_padding;
            const double whole = canvas_.text_width(heading_of(c), strong);
            widths[c] = std::max(widths[c], std::min(whole, std::max(longest, 0.6 * whole))) + 2 * cell_padding;
            (words[c] ? free : fixed) += widths[c];
        }
        if (fixed + std::min(free, 0.4 * text_width) <= text_width || size <= smallest_table_size) break;
    }
    const double left = text_width - fixed;
    share_out(widths, least, words, left);
    double whole = 0;
    for (const double w : widths) whole += w;
    if (whole < text_width && free <= left) {
        for (auto& w : widths) w += (text_width - whole) / static_cast<double>(columns);
    }
    const auto draw_line = [&](double weight) {
        canvas_.line({{{margin, y_}}, {{width - margin, y_}}}, {0.8, 0.83, 0.85}, weight);
    };
    const auto place = [&](std::size_t c, double x) {
        return words[c] || c == 0 ? x + (c == 0 ? 0 : cell_padding) : x + widths[c] - cell_padding;
    };
    const auto align = [&](std::size_t c) { return words[c] || c == 0 ? Canvas::Align::left : Canvas::Align::right; };
    const auto draw_headings = [&] {
        std::vector<std::vector<std::string>> lines;
        std::size_t most = 1;
        for (std::size_t c = 0; c < columns; ++c) {
            lines.push_back(
                lines_of(heading_of(c), size, true, widths[c] - (c == 0 ? cell_padding : 2 * cell_padding) + 0.01));
            most = std::max(most, lines.back().size());
        }
        double x = margin;
        for (std::size_t c = 0; c < columns; ++c) {
            double y = y_ + (static_cast<double>(most - lines[c].size()) + 1) * size * leading;
            for (const auto& line : lines[c]) {
                canvas_.text({{place(c, x), y}}, line, {.size = size, .strong = true, .align = align(c)});
                y += size * leading;
            }
            x += widths[c];
        }
        y_ += (static_cast<double>(most) + 0.5) * size * leading;
        draw_line(1);
    };
    need(5 * size * leading + (t.caption.empty() ? 0 : 14));
    if (!t.caption.empty()) {
        y_ += 4;
        paragraph(t.caption, faint, 8);
    }
    draw_headings();
    for (const auto& row : t.rows) {
        std::vector<std::vector<std::string>> lines;
        std::size_t most = 1;
        bool below = false;
        for (std::size_t c = 0; c < columns; ++c) {
            lines.push_back(words[c] ? lines_of(row[c].text, size, false, widths[c] - 2 * cell_padding)
                                     : std::vector{row[c].text});
            most = std::max(most, lines.back().size());
            below = below || !row[c].below.empty();
        }
        const double tall = (static_cast<double>(most) + (below ? 0.9 : 0) + 0.35) * size * leading;
        if (room() < tall) {
            next_page();
            draw_headings();
        }
        double x = margin;
        for (std::size_t c = 0; c < columns; ++c) {
            double y = y_ + size * leading;
            for (const auto& line : lines[c]) {
                canvas_.text({{place(c, x), y}}, line,
                             {.size = size, .colour = colour_of(row[c].look), .align = align(c)});
                y += size * leading;
            }
            if (!row[c].below.empty())
                canvas_.text(
                    {{place(c, x), y - 0.1 * size}}, row[c].below,
                    {.size = 0.9 * size,
                     .colour = row[c].below_look == TableCell::Look::plain ? faint : colour_of(row[c].below_look),
                     .align = align(c)});
            x += widths[c];
        }
        y_ += tall;
        draw_line(0.4);
    }
    y_ += 8;
}

void Paper::figures(const std::vector<PaperFigure>& figures) {
    const double column = figures.size() == 1 ? text_width * 2 / 3 : (text_width - gap) / 2;
    const double tall = column * figure_ratio;
    for (std::size_t k = 0; k < figures.size(); k += 2) {
        need(tall + 24);
        for (std::size_t c = 0; c < 2 && k + c < figures.size(); ++c) {
            const double x = margin + static_cast<double>(c) * (column + gap);
            const PictureFiles& files = *figures[k + c].picture;
            canvas_.picture(Box2{{{x, y_}}, {{x + column, y_ + tall}}, false}, page_picture(files));
            const auto caption = lines_of(figures[k + c].caption, 7.5, false, column);
            canvas_.text({{x, y_ + tall + 9}}, caption.front(), {.size = 7.5, .colour = faint});
        }
        y_ += tall + 20;
    }
}

void Paper::listing(const std::string& text) {
    constexpr double size = 6.5;
    std::size_t at = 0;
    while (at < text.size()) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        std::string line = text.substr(at, end - at);
        if (line.size() > 130) {
            std::size_t cut = 0;
            while (cut < 127) cut = after_character(line, cut);
            line = line.substr(0, cut) + " ...";
        }
        need(size * leading);
        canvas_.text({{margin, y_ + size}}, line, {.size = size});
        y_ += size * leading;
        at = end + 1;
    }
}

}  // namespace dotsift
