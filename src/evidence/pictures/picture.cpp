#include "evidence/pictures/picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <limits>

#include "base/numbers.hpp"
#include "evidence/drawing/raster.hpp"
#include "evidence/drawing/view.hpp"

namespace dotsift {

namespace {

constexpr double names_left = scale_left - 16, names_top = 150;
constexpr double left = field_area.low.c[0], top = field_area.low.c[1], plot_right = field_area.high.c[0],
                 plot_bottom = field_area.high.c[1];
constexpr Vec2 around{{8, 8}};
constexpr std::size_t side_pieces = 4;  // of a curved side drawn as a polyline

/// One flag an element.
using Shown = std::vector<char>;

/// What of the part a picture shows; nothing: all of it.
std::optional<Box2> cutout_of(const FieldPicture& p) {
    if (p.window) return p.window;
    if (!p.zoom) return {};
    const Vec2 reach{{p.zoom->radius, p.zoom->radius}};
    return Box2{p.zoom->centre - reach, p.zoom->centre + reach, false};
}

Shown shown_elements(const Mesh& mesh, const std::optional<Box2>& cutout) {
    Shown shown(mesh.element_count(), 1);
    if (!cutout) return shown;
    for (std::size_t e = 0; e < shown.size(); ++e) {
        Box2 box;
        for (const auto n : mesh.element(e)) box.add(mesh.nodes[static_cast<std::size_t>(n)]);
        for (std::size_t k = 0; k < 2; ++k)
            if (box.low[k] > cutout->high[k] || box.high[k] < cutout->low[k]) shown[e] = 0;
    }
    return shown;
}

View view_of(const Mesh& mesh, const std::optional<Box2>& cutout, const std::vector<std::vector<Vec2>>& others = {}) {
    if (cutout) return View(*cutout, field_area);
    Box2 box;
    for (const auto& p : mesh.nodes) box.add(p);
    for (const auto& line : others)
        for (const auto& p : line) box.add(p);
    return View(box, field_area);
}

/// `view` brings points of the part to where they are drawn.
template <class Viewed>
std::vector<Vec2> side_line(const Mesh& mesh, const std::array<int, 3>& side, const Viewed& view) {
    const Vec2 &a = mesh.nodes[static_cast<std::size_t>(side[0])], &b = mesh.nodes[static_cast<std::size_t>(side[1])],
               &m = mesh.nodes[static_cast<std::size_t>(std::max(side[2], 0))];
    if (side[2] < 0 || m == (a + b) * 0.5) return {view(a), view(b)};
    std::vector<Vec2> line;
    for (std::size_t k = 0; k <= side_pieces; ++k) {
        const double t = static_cast<double>(k) / side_pieces;
        line.push_back(view(a * ((1 - t) * (1 - 2 * t)) + b * (t * (2 * t - 1)) + m * (4 * t * (1 - t))));
    }
    return line;
}

/// Every side of every element once, and the median of their lengths in pixels.
struct Edges {
    std::vector<std::vector<Vec2>> lines;
    double median = 0;
};

/// Straight sides between nodes, joined end to end into long lines: half as many points to draw and to write.
std::vector<std::vector<Vec2>> trails(const Mesh& mesh, const std::vector<std::array<std::int32_t, 2>>& sides,
                                      const View& view) {
    // The sides at each node; a side is taken away once it is drawn.
    std::vector<std::int32_t> first(mesh.nodes.size() + 1, 0);
    for (const auto& s : sides)
        for (const auto n : s) ++first[static_cast<std::size_t>(n) + 1];
    for (std::size_t n = 1; n < first.size(); ++n) first[n] += first[n - 1];
    std::vector<std::int32_t> at(2 * sides.size()), next(first.begin(), first.end() - 1);
    for (std::size_t k = 0; k < sides.size(); ++k)
        for (const auto n : sides[k])
            at[static_cast<std::size_t>(next[static_cast<std::size_t>(n)]++)] = static_cast<std::int32_t>(k);
    next.assign(first.begin(), first.end() - 1);
    std::vector<char> drawn(sides.size(), 0);
    std::vector<std::vector<Vec2>> out;
    for (std::size_t start = 0; start < mesh.nodes.size(); ++start) {
        while (true) {
            std::vector<Vec2> line;
            for (auto n = start;;) {
                auto& k = next[n];
                while (k < first[n + 1] && drawn[static_cast<std::size_t>(at[static_cast<std::size_t>(k)])]) ++k;
                if (k == first[n + 1]) break;
                const auto side = static_cast<std::size_t>(at[static_cast<std::size_t>(k)]);
                drawn[side] = 1;
                if (line.empty()) line.push_back(view(mesh.nodes[n]));
                n = static_cast<std::size_t>(sides[side][0]) == n ? static_cast<std::size_t>(sides[side][1])
                                                                  : static_cast<std::size_t>(sides[side][0]);
                line.push_back(view(mesh.nodes[n]));
            }
            if (line.empty()) break;
            out.push_back(std::move(line));
        }
    }
    return out;
}

Edges element_edges(const Mesh& mesh, const View& view, const Shown& shown) {
    Edges edges;
    std::vector<double> lengths;
    std::vector<std::array<std::int32_t, 2>> straight;
    constexpr std::size_t sides = most_element_corners;
    std::vector<char> outer(mesh.element_count() * sides, 0);
    for (const auto& b : mesh.boundary)
        outer[static_cast<std::size_t>(b.element) * sides + static_cast<std::size_t>(b.side)] = 1;
    const bool all = std::all_of(shown.begin(), shown.end(), [](char s) { return s != 0; });
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (!shown[e]) continue;
        const auto nodes = mesh.element(e);
        for (int s = 0; s < corner_count(mesh.kinds[e]); ++s) {
            const auto local = side_nodes(mesh.kinds[e], s);
            const std::array<int, 3> side{nodes[local[0]], nodes[local[1]], local.size() < 3 ? -1 : nodes[local[2]]};
            if (all && side[0] > side[1] && !outer[e * sides + static_cast<std::size_t>(s)])
                continue;  // its neighbour draws it
            auto line = side_line(mesh, side, view);
            lengths.push_back(distance(line.front(), line.back()));
            if (line.size() == 2)
                straight.push_back({side[0], side[1]});
            else
                edges.lines.push_back(std::move(line));
        }
    }
    auto joined = trails(mesh, straight, view);
    std::move(joined.begin(), joined.end(), std::back_inserter(edges.lines));
    if (!lengths.empty()) {
        const auto middle = lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() / 2);
        std::nth_element(lengths.begin(), middle, lengths.end());
        edges.median = *middle;
    }
    return edges;
}

/// Edges closer than a few pixels would hide the field.
double edge_opacity(double median) {
    return std::clamp((median - 3) / 9, 0.0, 0.6);
}

std::vector<std::vector<Vec2>> outline_lines(const Mesh& mesh, const View& view, const Shown& shown) {
    std::vector<std::vector<Vec2>> lines;
    for (const auto& b : mesh.boundary)
        if (shown[static_cast<std::size_t>(b.element)]) lines.push_back(side_line(mesh, b.nodes, view));
    return lines;
}

void mark(Canvas& c, const Vec2& at, const std::string& label, const Colour& colour, bool above) {
    c.circle(at, 5, colour, paper);
    const Canvas::TextStyle style{
        .size = 15, .strong = true, .colour = ink, .align = Canvas::Align::centre, .halo = true};
    const double half = c.text_width(label, style) / 2;
    const double x = std::clamp(at[0], left + half, plot_right + 30 - half);
    const double y = above ? (at[1] - 14 < top + 10 ? at[1] + 26 : at[1] - 14)
                           : (at[1] + 26 > plot_bottom + 16 ? at[1] - 14 : at[1] + 26);
    c.text({{x, y}}, label, style);
}

}  // namespace

std::vector<std::vector<Vec2>> outline_of(const Mesh& mesh) {
    std::vector<std::vector<Vec2>> lines;
    for (const auto& b : mesh.boundary) lines.push_back(side_line(mesh, b.nodes, [](const Vec2& p) { return p; }));
    return lines;
}

PictureFiles draw_field(const Mesh& mesh, const FieldPicture& p, PictureUse use) {
    const auto cutout = cutout_of(p);
    const Shown shown = shown_elements(mesh, cutout);
    const View view = view_of(mesh, cutout, p.undeformed);
    const Edges edges = element_edges(mesh, view, shown);
    Raster raster(Box2{{{left - 8, top - 8}}, {{plot_right + 8, plot_bottom + 8}}, false}, scale_for(use));
    std::vector<double> shares(mesh.node_of_slot.size(), 0);
    for (std::size_t s = 0; s < p.slots.size(); ++s) shares[s] = p.position(p.slots[s]);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        if (!shown[e]) continue;
        auto positions = mesh.positions(e);
        for (auto& q : positions) q = view(q);
        std::array<double, most_element_nodes> values{};
        const auto slots = mesh.slots_of(e);
        for (std::size_t i = 0; i < slots.size(); ++i)
            values[i] =
                p.elementwise.empty() ? shares[static_cast<std::size_t>(slots[i])] : p.position(p.elementwise[e]);
        raster.paint(mesh.kinds[e], positions, values);
    }
    auto pixels = raster.pixels(p.map);
    const auto outline = outline_lines(mesh, view, shown);
    auto before = p.undeformed;
    for (auto& line : before)
        for (auto& q : line) q = view(q);
    const auto draw = [&](Canvas& c) {
        heading(c, p.title, p.subtitle);
        const auto field = [&] {
            c.image(raster.box().low, raster.box().size(), raster.columns(), raster.rows(), pixels);
            c.lines(before, faint, 1.6, 0.9);
            const double opacity = p.sides ? edge_opacity(edges.median) : 0;
            if (opacity > 0) c.lines(edges.lines, ink, 0.7, opacity);
            c.lines(outline, ink, 1.6, 1);
        };
        if (p.zoom)
            c.within_circle(view(p.zoom->centre), view.scale() * p.zoom->radius, field);
        else if (p.window)
            c.within_box({{{view(p.window->low)[0], view(p.window->high)[1]}},
                          {{view(p.window->high)[0], view(p.window->low)[1]}},
                          false},
                         field);
        else
            field();
        if (p.mark_extremes && p.smallest != p.largest) {  // of a field that is the same everywhere there are none
            const auto label = [](const char* what, double value, const std::string& instead) {
                return instead.empty() ? fmt::format("{} {}", what, sensible(value)) : instead;
            };
            if (p.smallest)
                mark(c, view(p.smallest_at), label("min", *p.smallest, p.smallest_label), category(0), false);
            if (p.largest) mark(c, view(p.largest_at), label("max", *p.largest, p.largest_label), category(1), true);
        }
        draw_scale(c, p);
        length_bar(c, view, p.length_unit);
    };
    return both_formats(draw, use);
}

PictureFiles draw_categories(const Mesh& mesh, const CategoryPicture& p) {
    const View view = view_of(mesh, {});
    ElementColours elements(mesh, view, field_area, [&](std::size_t e) { return category(p.elementwise[e]); });
    return both_formats([&](Canvas& c) {
        heading(c, p.title, p.subtitle);
        elements.draw(c);
        double y = names_top;
        c.text({{names_left, y - 28}}, p.legend, {.size = 14, .strong = true});
        for (std::size_t n = 0; n < p.names.size(); ++n) {
            if (std::find(p.elementwise.begin(), p.elementwise.end(), static_cast<int>(n)) == p.elementwise.end())
                continue;
            c.line({{{names_left, y - 5}}, {{names_left + 26, y - 5}}}, category(static_cast<int>(n)), 12);
            c.text({{names_left + 36, y}}, p.names[n], {.size = 14});
            y += 26;
        }
        length_bar(c, view, p.length_unit);
    });
}

ElementColours::ElementColours(const Mesh& mesh, const View& view, const Box2& area,
                               const std::function<Colour(std::size_t)>& colour, double scale)
    : box_{area.low - around, area.high + around, false} {
    // The raster holds numbers; each colour is one of a list.
    std::vector<Colour> list;
    const auto number = [&](const Colour& wanted) {
        for (std::size_t k = 0; k < list.size(); ++k)
            if (list[k].r == wanted.r && list[k].g == wanted.g && list[k].b == wanted.b) return k;
        list.push_back(wanted);
        return list.size() - 1;
    };
    Raster raster(box_, scale);
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        auto positions = mesh.positions(e);
        for (auto& q : positions) q = view(q);
        std::array<double, most_element_nodes> values{};
        values.fill(static_cast<double>(number(colour(e))));
        raster.paint(mesh.kinds[e], positions, values);
    }
    columns_ = raster.columns();
    rows_ = raster.rows();
    pixels_ = raster.pixels(list);
    const Shown shown = shown_elements(mesh, {});
    Edges edges = element_edges(mesh, view, shown);
    sides_ = std::move(edges.lines);
    median_ = edges.median;
    outline_ = outline_lines(mesh, view, shown);
}

void ElementColours::draw(Canvas& c) {
    c.image(box_.low, box_.size(), columns_, rows_, pixels_);
    c.lines(sides_, Colour{0.2, 0.3, 0.4}, median_ > 8 ? 0.8 : 0.5, std::clamp(median_ / 8, 0.25, 0.9));
    c.lines(outline_, ink, 1.6, 1);
}

PictureFiles draw_mesh(const Mesh& mesh, const std::string& title, const std::string& subtitle,
                       const std::string& length_unit, PictureUse use) {
    const View view = view_of(mesh, {});
    ElementColours elements(
        mesh, view, field_area,
        [](std::size_t) {
            return Colour{0.91, 0.94, 0.96};
        },
        scale_for(use));
    const auto draw = [&](Canvas& c) {
        heading(c, title, subtitle);
        elements.draw(c);
        double y = names_top;
        c.text({{names_left, y - 28}}, "named boundaries", {.size = 14, .strong = true});
        for (std::size_t n = 0; n < mesh.boundary_names.size(); ++n) {
            std::vector<std::vector<Vec2>> lines;
            for (const auto& b : mesh.boundary) {
                const auto& names = mesh.names_of_edge[static_cast<std::size_t>(b.edge)];
                if (std::find(names.begin(), names.end(), static_cast<int>(n)) != names.end())
                    lines.push_back(side_line(mesh, b.nodes, view));
            }
            if (lines.empty()) continue;
            c.lines(lines, category(static_cast<int>(n)), 4, 0.95);
            c.line({{{names_left, y - 5}}, {{names_left + 26, y - 5}}}, category(static_cast<int>(n)), 4);
            c.text({{names_left + 36, y}}, mesh.boundary_names[n], {.size = 14});
            y += 26;
        }
        length_bar(c, view, length_unit);
    };
    return both_formats(draw, use);
}

}  // namespace dotsift
