#include "evidence/drawing/view.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/files.hpp"

namespace dotsift {

View::View(const Box2& part, const Box2& area) {
    const Vec2 size = part.size(), room = area.size();
    scale_ = std::min(room[0] / std::max(size[0], 1e-300), room[1] / std::max(size[1], 1e-300));
    origin_ = {{area.centre()[0] - part.centre()[0] * scale_, area.centre()[1] + part.centre()[1] * scale_}};
}

std::vector<Vec2> polyline(const Curve& c, const View& view) {
    if (c.straight()) return {view(c.start()), view(c.end())};
    const double pixels = c.length() * view.scale();
    const int steps = std::clamp(static_cast<int>(std::max(pixels / 3, c.turning() * 16)), 8, 2000);
    std::vector<Vec2> points;
    for (int k = 0; k <= steps; ++k) points.push_back(view(c.point(static_cast<double>(k) / steps)));
    return points;
}

std::vector<std::vector<Vec2>> loops_of(const Part& part, const PartFace& face, const View& view) {
    std::vector<std::vector<Vec2>> loops;
    for (const auto& loop : face.loops) {
        std::vector<Vec2>& points = loops.emplace_back();
        for (const auto& u : loop) {
            auto line = polyline(part.edge(u.edge).curve, view);
            if (!u.forward) std::reverse(line.begin(), line.end());
            points.insert(points.end(), line.begin(), line.end());
        }
    }
    return loops;
}

void heading(Canvas& c, const std::string& title, const std::string& subtitle) {
    c.text({{field_area.low[0], 44}}, title, {.size = 24, .strong = true});
    c.text({{field_area.low[0], 70}}, subtitle, {.size = 15, .colour = faint});
}

void length_bar(Canvas& c, const View& view, const std::string& unit) {
    const double wanted = 140 / view.scale();
    const double power = std::pow(10, std::floor(std::log10(wanted)));
    const double length = wanted >= 5 * power ? 5 * power : wanted >= 2 * power ? 2 * power : power;
    const double x = field_area.low[0], y = 778, w = length * view.scale();
    c.line({{{x, y - 5}}, {{x, y}}, {{x + w, y}}, {{x + w, y - 5}}}, ink, 1.5);
    c.text({{x + w + 10, y}}, fmt::format("{:g} {}", length, unit), {.size = 14});
}

void write_picture(const std::filesystem::path& stem, const PictureFiles& files) {
    if (!files.png.empty()) write_file(stem.string() + ".png", files.png);
    if (!files.svg.empty()) write_file(stem.string() + ".svg", files.svg);
}

PictureFiles both_formats(const std::function<void(Canvas&)>& draw, PictureUse use) {
    PictureFiles files;
    if (use == PictureUse::page) {
        files.as_drawn.width = static_cast<int>(picture_width * page_scale);
        files.as_drawn.pixels =
            render_pixels(files.as_drawn.width, static_cast<int>(picture_height * page_scale), draw, page_scale);
        return files;
    }
    files.png = render(PictureFormat::png, picture_width, picture_height, draw, &files.as_drawn.pixels);
    files.as_drawn.width = picture_width;
    if (use == PictureUse::files) files.svg = render(PictureFormat::svg, picture_width, picture_height, draw);
    return files;
}

}  // namespace dotsift
