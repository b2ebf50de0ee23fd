#include "evidence/pictures/size_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/numbers.hpp"
#include "evidence/drawing/colour_scale.hpp"
#include "part/classify.hpp"
#include "sizes/part_sizes.hpp"

namespace dotsift {

namespace {

constexpr int samples_in_pixel = 2;  // in a pixel

RayCaster outline_rays(const Part& part) {
    RayCaster rays;
    for (const auto& e : part.edges)
        if (!e.interior()) rays.add(e.curve, 0);
    rays.prepare();
    return rays;
}

/// Pixels over the part; `colour` is asked at each place inside.
template <class ColourAt>
std::vector<std::uint32_t> paint(const Part& part, const View& view, const Box2& area, ColourAt colour) {
    const RayCaster rays = outline_rays(part);
    const auto columns = static_cast<std::size_t>(area.size()[0]), rows = static_cast<std::size_t>(area.size()[1]);
    const Vec2 origin = view(Vec2{});
    std::vector<std::uint32_t> pixels(columns * rows, 0);
    constexpr double all = samples_in_pixel * samples_in_pixel;
    for (std::size_t y = 0; y < rows; ++y)
        for (std::size_t x = 0; x < columns; ++x) {
            double r = 0, g = 0, b = 0, a = 0;
            for (int k = 0; k < samples_in_pixel; ++k)
                for (int l = 0; l < samples_in_pixel; ++l) {
                    const Vec2 pixel = area.low + Vec2{{static_cast<double>(x) + (l + 0.5) / samples_in_pixel,
                                                        static_cast<double>(y) + (k + 0.5) / samples_in_pixel}};
                    const Vec2 p{{(pixel[0] - origin[0]) / view.scale(), (origin[1] - pixel[1]) / view.scale()}};
                    if (!rays.inside(p)) continue;
                    const Colour c = colour(p);
                    r += c.r;
                    g += c.g;
                    b += c.b;
                    a += 1;
                }
            const auto byte = [&](double v) { return static_cast<std::uint32_t>(std::lround(v / all * 255)); };
            if (a > 0) pixels[y * columns + x] = byte(a) << 24U | byte(r) << 16U | byte(g) << 8U | byte(b);
        }
    return pixels;
}

void outline(Canvas& c, const Part& part, const View& view) {
    std::vector<std::vector<Vec2>> lines;
    for (const auto& e : part.edges) lines.push_back(polyline(e.curve, view));
    c.lines(lines, ink, 1.4, 1);
}

/// Rules of the study have category colours, what holds for all curves or everywhere has greys.
Colour colour_of(int rule, int rules) {
    if (rule < 0) return {0.88, 0.89, 0.91};
    if (rule >= rules) return {0.62, 0.64, 0.67};
    return category(rule);
}

}  // namespace

std::vector<RuleShare> rule_shares(const Part& part, const SizeField& field, const SizeSpec& sizes, int columns) {
    std::map<int, RuleShare> shares;
    for (int r = -1; r <= static_cast<int>(sizes.local.size()); ++r)
        shares[r] = {r, name_of_rule(sizes, r), 0, 0, 0, {}};
    const RayCaster rays = outline_rays(part);
    const Vec2 extent = part.box.size();
    const double step = std::max(extent[0], extent[1]) / columns;
    double count = 0;
    const auto add = [&](const Vec2& p, double weight) {
        const auto answer = field.query(p);
        auto& s = shares[answer.rule];
        if (s.largest == 0 || answer.size < s.smallest) {
            s.smallest = answer.size;
            s.smallest_at = p;
        }
        s.largest = std::max(s.largest, answer.size);
        s.area_share += weight;
        count += weight;
    };
    for (double y = part.box.low[1] + step / 2; y < part.box.high[1]; y += step)
        for (double x = part.box.low[0] + step / 2; x < part.box.high[0]; x += step)
            if (rays.inside({{x, y}})) add({{x, y}}, 1);
    // Rules on boundaries are strongest on them, where no sample of the area may fall.
    for (const auto& e : part.edges)
        for (int k = 0; k <= 16; ++k) add(e.curve.point(k / 16.0), 0);
    for (const auto& p : part.points) add(part.vertex(p.vertex), 0);
    std::vector<RuleShare> out;
    for (auto& [rule, s] : shares) {
        if (count > 0) s.area_share /= count;
        out.push_back(s);
    }
    return out;
}

SizePictures draw_sizes(const Part& part, const SizeField& field, const SizeSpec& sizes, const std::string& title,
                        const std::string& length_unit) {
    const View view(part.box, field_area);
    const auto rules = static_cast<int>(sizes.local.size());
    const auto shares = rule_shares(part, field, sizes);
    ColourScale scale;
    scale.legend = "element size";
    scale.unit = length_unit;
    scale.map = ColourMap::depth;
    scale.low = INFINITY;
    scale.high = 0;
    for (const auto& s : shares) {
        if (s.largest == 0) continue;
        scale.low = std::min(scale.low, s.smallest);
        scale.high = std::max(scale.high, s.largest);
    }
    constexpr double wide_range = 5;  // from there on colours go by the logarithm
    scale.logarithmic = scale.high > wide_range * scale.low;
    const Box2 area{field_area.low - Vec2{{8, 8}}, field_area.high + Vec2{{8, 8}}, false};
    const auto image = [&](Canvas& c, std::vector<std::uint32_t>& pixels) {
        c.image(area.low, area.size(), static_cast<int>(area.size()[0]), static_cast<int>(area.size()[1]), pixels);
    };
    auto by_size =
        paint(part, view, area, [&](const Vec2& p) { return colour_at(scale.map, scale.position(field.at(p))); });
    auto by_rule = paint(part, view, area, [&](const Vec2& p) {
        const Colour c = colour_of(field.query(p).rule, rules);
        const double share = 0.6;
        return Colour{1 - share * (1 - c.r), 1 - share * (1 - c.g), 1 - share * (1 - c.b)};
    });
    SizePictures out;
    out.sizes = both_formats([&](Canvas& c) {
        heading(c, title,
                fmt::format("wanted element size, from {} to {} {}", sensible(scale.low), sensible(scale.high),
                            length_unit));
        image(c, by_size);
        outline(c, part, view);
        draw_scale(c, scale);
        length_bar(c, view, length_unit);
    });
    out.rules = both_formats([&](Canvas& c) {
        heading(c, title, "the rule that decides the element size at each place");
        image(c, by_rule);
        outline(c, part, view);
        double y = 150;
        const double left = scale_left - 16;
        for (const auto& s : shares) {
            if (s.largest == 0) continue;
            const Colour colour = colour_of(s.rule, rules);
            c.fill({{{left, y - 11}}, {{left + 14, y - 11}}, {{left + 14, y + 1}}, {{left, y + 1}}}, colour);
            std::string name = s.name;
            if (name.rfind("size.local.", 0) == 0) name = name.substr(11);
            c.text({{left + 22, y}}, name, {.size = 14});
            c.text({{left + 22, y + 18}}, fmt::format("from {} {}", sensible(s.smallest), length_unit),
                   {.size = 12, .colour = faint});
            y += 44;
        }
        length_bar(c, view, length_unit);
    });
    return out;
}

}  // namespace dotsift
