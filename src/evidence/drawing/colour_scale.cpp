#include "evidence/drawing/colour_scale.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace dotsift {

namespace {

constexpr double bar_left = scale_left, bar_width = 22, bar_top = 150, bar_bottom = 690;

/// Round values between the ends of the range.
std::vector<double> ticks(const ColourScale& p) {
    std::vector<double> list;
    if (p.logarithmic) {
        for (int k = static_cast<int>(std::ceil(std::log10(p.low)));
             k <= static_cast<int>(std::floor(std::log10(p.high))); ++k)
            list.push_back(std::pow(10, k));
        if (list.size() >= 2) return list;
        // Within less than two decades: the round numbers between.
        list.clear();
        constexpr std::array round{1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0};
        for (int k = static_cast<int>(std::floor(std::log10(p.low)));
             k <= static_cast<int>(std::ceil(std::log10(p.high))); ++k)
            for (const double r : round) {
                const double v = r * std::pow(10, k);
                if (v >= p.low * (1 - 1e-9) && v <= p.high * (1 + 1e-9)) list.push_back(v);
            }
        if (list.size() < 2) list = {p.low, p.high};
        return list;
    }
    const double span = p.high - p.low;
    if (!(span > 0)) return {p.low};
    const double rough = span / 8, power = std::pow(10, std::floor(std::log10(rough)));
    const double step = rough > 5 * power   ? 10 * power
                        : rough > 2 * power ? 5 * power
                        : rough > power     ? 2 * power
                                            : power;
    for (double v = std::ceil(p.low / step) * step; v <= p.high + 1e-9 * span; v += step)
        list.push_back(std::fabs(v) < 1e-9 * span ? 0 : v);
    return list;
}

/// Lines that fit beside the picture.
std::vector<std::string> wrapped(const std::string& text) {
    constexpr std::size_t widest = 20;
    std::vector<std::string> lines(1);
    std::size_t at = 0;
    while (at < text.size()) {
        const std::size_t end = std::min(text.find(' ', at), text.size());
        const std::string word = text.substr(at, end - at);
        if (!lines.back().empty() && lines.back().size() + 1 + word.size() > widest) lines.emplace_back();
        lines.back() += (lines.back().empty() ? "" : " ") + word;
        at = end + 1;
    }
    return lines;
}

}  // namespace

double ColourScale::position(double value) const {
    if (!(high > low)) return 0;
    if (logarithmic) return std::log(std::max(value, low) / low) / std::log(high / low);
    return (value - low) / (high - low);
}

void draw_scale(Canvas& c, const ColourScale& p) {
    const double height = bar_bottom - bar_top;
    const int rows = static_cast<int>(height);
    std::vector<std::uint32_t> pixels(static_cast<std::size_t>(rows));
    for (int k = 0; k < rows; ++k) pixels[static_cast<std::size_t>(k)] = packed(colour_at(p.map, 1 - (k + 0.5) / rows));
    c.image({{bar_left, bar_top}}, {{bar_width, height}}, 1, rows, pixels);
    c.line({{{bar_left, bar_top}},
            {{bar_left + bar_width, bar_top}},
            {{bar_left + bar_width, bar_bottom}},
            {{bar_left, bar_bottom}}},
           ink, 1, 0.6, true);
    if (p.clipped) {
        c.fill({{{bar_left, bar_top}}, {{bar_left + bar_width / 2, bar_top - 9}}, {{bar_left + bar_width, bar_top}}},
               colour_at(p.map, 1));
        c.text({{bar_left + bar_width + 12, bar_top - 1}}, "and above", {.size = 12, .colour = faint});
    }
    for (const double v : ticks(p)) {
        const double y = bar_bottom - height * std::clamp(p.position(v), 0.0, 1.0);
        c.line({{{bar_left + bar_width, y}}, {{bar_left + bar_width + 6, y}}}, ink, 1);
        c.text({{bar_left + bar_width + 12, y + 5}}, fmt::format("{:.4g}", v), {.size = 14});
    }
    if (p.clipped && p.map == ColourMap::swing) {
        c.fill({{{bar_left, bar_bottom}},
                {{bar_left + bar_width / 2, bar_bottom + 9}},
                {{bar_left + bar_width, bar_bottom}}},
               colour_at(p.map, 0));
        c.text({{bar_left + bar_width + 12, bar_bottom + 11}}, "and below", {.size = 12, .colour = faint});
    }
    const auto lines = wrapped(p.legend);
    for (std::size_t k = 0; k < lines.size(); ++k)
        c.text({{bar_left, bar_top - 42 - 18 * static_cast<double>(lines.size() - 1 - k)}}, lines[k],
               {.size = 14, .strong = true});
    if (!p.unit.empty()) c.text({{bar_left, bar_top - 22}}, "in " + p.unit, {.size = 14, .colour = faint});
}

}  // namespace dotsift
