#include "evidence/pictures/size_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/numbers.hpp"
#include "evidence/drawing/colour_scale.hpp"
#include "evidence/pictures/solid_view.hpp"
#include "mesh/solid/generate_solid.hpp"
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

/// What each rule decides, from samples one after the other.
template <int D>
class ShareCount {
  public:
    ShareCount(const SizeFieldIn<D>& field, const SizeSpec& sizes) : field_(field) {
        for (int r = -1; r <= static_cast<int>(sizes.local.size()); ++r)
            shares_[r] = {r, name_of_rule(sizes, r), 0, 0, 0, {}};
    }
    void add(const Vec<D>& p, double weight) {
        const auto answer = field_.query(p);
        auto& s = shares_[answer.rule];
        if (s.largest == 0 || answer.size < s.smallest) {
            s.smallest = answer.size;
            s.smallest_at = p;
        }
        s.largest = std::max(s.largest, answer.size);
        s.share += weight;
        sum_ += weight;
    }
    [[nodiscard]] std::vector<RuleShareIn<D>> result() const {
        std::vector<RuleShareIn<D>> out;
        for (const auto& [rule, s] : shares_) {
            out.push_back(s);
            if (sum_ > 0) out.back().share /= sum_;
        }
        return out;
    }

  private:
    const SizeFieldIn<D>& field_;
    std::map<int, RuleShareIn<D>> shares_;
    double sum_ = 0;
};

template <int D>
ColourScale scale_of(const std::vector<RuleShareIn<D>>& shares, const std::string& length_unit) {
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
    return scale;
}

std::string told_range(const ColourScale& scale, const std::string& length_unit) {
    return fmt::format("wanted element size, from {} to {} {}", sensible(scale.low), sensible(scale.high), length_unit);
}

/// Softened, so that lines are seen on it.
Colour soft_colour_of(int rule, int rules) {
    const Colour c = colour_of(rule, rules);
    constexpr double share = 0.6;
    return {1 - share * (1 - c.r), 1 - share * (1 - c.g), 1 - share * (1 - c.b)};
}

template <int D>
void list_rules(Canvas& c, const std::vector<RuleShareIn<D>>& shares, int rules, const std::string& length_unit) {
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
}

}  // namespace

std::vector<RuleShare> rule_shares(const Part& part, const SizeField& field, const SizeSpec& sizes, int columns) {
    ShareCount<2> count(field, sizes);
    const RayCaster rays = outline_rays(part);
    const Vec2 extent = part.box.size();
    const double step = std::max(extent[0], extent[1]) / columns;
    for (double y = part.box.low[1] + step / 2; y < part.box.high[1]; y += step)
        for (double x = part.box.low[0] + step / 2; x < part.box.high[0]; x += step)
            if (rays.inside({{x, y}})) count.add({{x, y}}, 1);
    // Rules on boundaries are strongest on them, where no sample of the area may fall.
    for (const auto& e : part.edges)
        for (int k = 0; k <= 16; ++k) count.add(e.curve.point(k / 16.0), 0);
    for (const auto& p : part.points) count.add(part.vertex(p.vertex), 0);
    return count.result();
}

SizePictures draw_sizes(const Part& part, const SizeField& field, const SizeSpec& sizes, const std::string& title,
                        const std::string& length_unit) {
    const View view(part.box, field_area);
    const auto rules = static_cast<int>(sizes.local.size());
    const auto shares = rule_shares(part, field, sizes);
    const ColourScale scale = scale_of(shares, length_unit);
    const Box2 area{field_area.low - Vec2{{8, 8}}, field_area.high + Vec2{{8, 8}}, false};
    const auto image = [&](Canvas& c, std::vector<std::uint32_t>& pixels) {
        c.image(area.low, area.size(), static_cast<int>(area.size()[0]), static_cast<int>(area.size()[1]), pixels);
    };
    auto by_size =
        paint(part, view, area, [&](const Vec2& p) { return colour_at(scale.map, scale.position(field.at(p))); });
    auto by_rule = paint(part, view, area, [&](const Vec2& p) { return soft_colour_of(field.query(p).rule, rules); });
    SizePictures out;
    out.sizes = both_formats([&](Canvas& c) {
        heading(c, title, told_range(scale, length_unit));
        image(c, by_size);
        outline(c, part, view);
        draw_scale(c, scale);
        length_bar(c, view, length_unit);
    });
    out.rules = both_formats([&](Canvas& c) {
        heading(c, title, "the rule that decides the element size at each place");
        image(c, by_rule);
        outline(c, part, view);
        list_rules(c, shares, rules, length_unit);
        length_bar(c, view, length_unit);
    });
    return out;
}

SolidMesh size_samples(const SolidPart& part, const SizeFieldIn<3>& field, std::int64_t most_elements) {
    constexpr double enough = 20000;
    const double asked = estimate_elements(part, field, 1e12);
    return generate_solid(part, {field.scaled(std::max(1.0, std::cbrt(asked / enough)))}, most_elements, 2);
}

std::vector<RuleShareIn<3>> rule_shares(const SolidMesh& samples, const SizeFieldIn<3>& field, const SizeSpec& sizes) {
    ShareCount<3> count(field, sizes);
    for (std::size_t e = 0; e < samples.element_count(); ++e)
        count.add(samples.centre_of(e), std::pow(samples.size_of(e), 3));
    for (const Vec3& p : samples.nodes) count.add(p, 0);
    return count.result();
}

SizePictures draw_sizes(const SolidMesh& samples, const SizeFieldIn<3>& field, const SizeSpec& sizes,
                        const std::string& title, const std::string& length_unit) {
    const auto shares = rule_shares(samples, field, sizes);
    const auto rules = static_cast<int>(sizes.local.size());
    const ColourScale scale = scale_of(shares, length_unit);
    Vec3 smallest_at{};
    for (const auto& s : shares)
        if (s.largest > 0 && s.smallest == scale.low) smallest_at = s.smallest_at;
    const std::vector<Vec3> still;
    SolidView view(samples, still, dim_on_field, PictureUse::files, section_through(samples, smallest_at));
    view.set(view.choose({{smallest_at, {}, 0}}));
    SizePictures out;
    const ColourLookup lookup(scale.map);
    view.paint({[&](std::size_t e, std::size_t local) {
                    return field.at(samples.nodes[static_cast<std::size_t>(samples.element(e)[local])]);
                },
                [&](const ShownSide&, double size) { return lookup(scale.position(size)); }},
               false);
    out.sizes = both_formats([&](Canvas& c) {
        heading(c, title, told_range(scale, length_unit) + ", cut where it is smallest");
        view.draw(c);
        draw_scale(c, scale);
        length_bar(c, view.view(), length_unit);
        view.draw_axes(c);
    });
    std::vector<Colour> colours;
    for (std::size_t e = 0; e < samples.element_count(); ++e)
        colours.push_back(soft_colour_of(field.query(samples.centre_of(e)).rule, rules));
    view.paint({{}, [&](const ShownSide& s, double) { return colours[s.element]; }}, false);
    out.rules = both_formats([&](Canvas& c) {
        heading(c, title, "the rule that decides the element size at each place");
        view.draw(c);
        list_rules(c, shares, rules, length_unit);
        length_bar(c, view.view(), length_unit);
        view.draw_axes(c);
    });
    return out;
}

}  // namespace dotsift
