#include "evidence/pictures/part_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "base/numbers.hpp"

namespace dotsift {

namespace {

constexpr Box2 part_area{{{96, 112}}, {{828, 700}}, false};
constexpr double list_left = 884, list_width = 366, list_top = 128, list_bottom = 780;
constexpr std::size_t most_labels = 200;  // more could not be read
constexpr Colour soft{0.78, 0.81, 0.84};
constexpr Colour flag{0.70, 0.10, 0.12};

/// Pale grounds for regions.
Colour ground(std::size_t region) {
    const Colour c = category(static_cast<int>(region));
    const double share = 0.16;
    return {1 - share * (1 - c.r), 1 - share * (1 - c.g), 1 - share * (1 - c.b)};
}

void fill_regions(Canvas& canvas, const Part& part, const View& view) {
    for (const auto& f : part.faces)
        canvas.fill_between(loops_of(part, f, view), ground(static_cast<std::size_t>(f.region)));
}

void draw_edges(Canvas& canvas, const Part& part, const View& view) {
    std::vector<std::vector<Vec2>> outline, inner;
    for (const auto& e : part.edges) (e.interior() ? inner : outline).push_back(polyline(e.curve, view));
    canvas.lines(inner, ink, 1, 0.7);
    canvas.lines(outline, ink, 1.6, 1);
}

/// Places labels so that they do not cover each other.
class Labels {
  public:
    Labels(Canvas& canvas, const Box2& bounds) : canvas_(canvas), bounds_(bounds) {}

    void block(const Box2& box) { taken_.push_back(box); }
    [[nodiscard]] bool covered(const Box2& box) const {
        return std::any_of(taken_.begin(), taken_.end(), [&](const Box2& b) { return overlap(b, box); });
    }

    /// Tries the anchors in order, each with several distances along its direction; false if there is no room.
    struct Anchor {
        Vec2 at, away;
    };
    bool place(const std::string& text, const std::vector<Anchor>& anchors, const Colour& colour) {
        const Canvas::TextStyle style{.size = 14, .strong = true, .colour = colour, .halo = true};
        const double width = canvas_.text_width(text, style), height = 15;
        for (const double reach : {14.0, 24.0, 40.0, 60.0, 84.0})
            for (const auto& a : anchors) {
                const Vec2 centre = a.at + a.away * (reach + std::fabs(a.away[0]) * width / 2);
                Box2 box{{{centre[0] - width / 2 - 3, centre[1] - height / 2 - 2}},
                         {{centre[0] + width / 2 + 3, centre[1] + height / 2 + 2}},
                         false};
                if (box.low[0] < bounds_.low[0] || box.high[0] > bounds_.high[0] || box.low[1] < bounds_.low[1] ||
                    box.high[1] > bounds_.high[1])
                    continue;
                if (covered(box)) continue;
                if (reach > 30) canvas_.line({a.at, centre - a.away * (height / 2)}, colour, 0.8, 0.7);
                canvas_.text({{centre[0] - width / 2, centre[1] + 5}}, text, style);
                taken_.push_back(box);
                return true;
            }
        return false;
    }

  private:
    static bool overlap(const Box2& a, const Box2& b) {
        return a.low[0] < b.high[0] && b.low[0] < a.high[0] && a.low[1] < b.high[1] && b.low[1] < a.high[1];
    }
    Canvas& canvas_;
    Box2 bounds_;
    std::vector<Box2> taken_;
};

void dimension_line(Canvas& canvas, const Vec2& a, const Vec2& b, const std::string& text, bool vertical) {
    canvas.line({a, b}, faint, 1);
    const Vec2 tick = vertical ? Vec2{{5, 0}} : Vec2{{0, 5}};
    canvas.line({a - tick, a + tick}, faint, 1);
    canvas.line({b - tick, b + tick}, faint, 1);
    if (vertical)
        canvas.text({{a[0] - 8, (a[1] + b[1]) / 2 + 5}}, text,
                    {.size = 14, .align = Canvas::Align::right, .halo = true});
    else
        canvas.text({{(a[0] + b[0]) / 2, a[1] + 22}}, text, {.size = 14, .align = Canvas::Align::centre, .halo = true});
}

void overall_dimensions(Canvas& canvas, const Part& part, const View& view, const std::string& unit) {
    const Vec2 low = view(part.box.low), high = view(part.box.high);  // y downwards
    dimension_line(canvas, {{low[0], low[1] + 26}}, {{high[0], low[1] + 26}},
                   fmt::format("{:.6g} {}", part.box.size()[0], unit), false);
    dimension_line(canvas, {{low[0] - 26, high[1]}}, {{low[0] - 26, low[1]}}, fmt::format("{:.6g}", part.box.size()[1]),
                   true);
}

/// For each name its edges.
std::vector<std::vector<int>> edges_of_names(const Part& part) {
    std::vector<std::vector<int>> list(part.boundary_names.size());
    for (std::size_t e = 0; e < part.edges.size(); ++e)
        for (const int n : part.edges[e].names) list[static_cast<std::size_t>(n)].push_back(static_cast<int>(e));
    return list;
}

/// Named edges in the colours of their names; several names on one edge lie beside each other.
void draw_named_edges(Canvas& canvas, const Part& part, const View& view) {
    const auto edges = edges_of_names(part);
    for (std::size_t n = 0; n < edges.size(); ++n) {
        std::vector<std::vector<Vec2>> lines;
        for (const int e : edges[n]) {
            const auto& names = part.edge(e).names;
            const auto rank = std::find(names.begin(), names.end(), static_cast<int>(n)) - names.begin();
            const auto drawn = polyline(part.edge(e).curve, view);
            auto line = drawn;
            for (std::size_t k = 0; rank > 0 && k < line.size(); ++k) {
                const Vec2 d = drawn[std::min(k + 1, drawn.size() - 1)] - drawn[k > 0 ? k - 1 : 0];
                if (norm(d) > 0) line[k] += turned_left(d) / norm(d) * (3.5 * static_cast<double>(rank));
            }
            lines.push_back(std::move(line));
        }
        canvas.lines(lines, category(static_cast<int>(n)), 3.5, 0.95);
    }
}

/// The names beside their longest edges, where there is room.
void label_names(const Part& part, const View& view, Labels& labels) {
    auto all = edges_of_names(part);
    for (std::size_t n = 0; n < std::min(all.size(), most_labels); ++n) {
        auto& edges = all[n];
        std::stable_sort(edges.begin(), edges.end(),
                         [&](int a, int b) { return part.edge(a).curve.length() > part.edge(b).curve.length(); });
        if (edges.size() > 4) edges.resize(4);
        std::vector<Labels::Anchor> anchors;
        for (const int e : edges) {
            const Curve& c = part.edge(e).curve;
            for (const double t : {0.5, 0.25, 0.75, 0.12, 0.88, 0.37, 0.63}) {
                const Vec2 d = c.derivative(t);
                Vec2 away = -turned_left(d) / norm(d);  // off the material
                away[1] = -away[1];
                anchors.push_back({view(c.point(t)), away});
                anchors.push_back({view(c.point(t)), -away});
            }
        }
        if (!anchors.empty()) labels.place(part.boundary_names[n], anchors, category(static_cast<int>(n)));
    }
}

void label_points(Canvas& canvas, const Part& part, const View& view, Labels& labels) {
    for (const auto& p : part.points) {
        const Vec2 at = view(part.vertex(p.vertex));
        canvas.line({{{at[0] - 5, at[1]}}, {{at[0] + 5, at[1]}}}, ink, 1.6);
        canvas.line({{{at[0], at[1] - 5}}, {{at[0], at[1] + 5}}}, ink, 1.6);
        std::vector<Labels::Anchor> anchors;
        for (const Vec2 d : {Vec2{{0.7, -0.7}}, Vec2{{-0.7, -0.7}}, Vec2{{0.7, 0.7}}, Vec2{{-0.7, 0.7}}})
            anchors.push_back({at, d});
        labels.place(p.name, anchors, ink);
    }
}

/// The room that a number takes.
Box2 badge(const Vec2& at) {
    return {{{at[0] - 12, at[1] - 12}}, {{at[0] + 12, at[1] + 12}}, false};
}

void mark_finding(Canvas& canvas, const Finding& f, std::size_t number, const View& view, Labels& labels) {
    const Vec2 a = view(f.places.front()), b = view(f.places.back());
    if (f.places.size() > 1) canvas.line({a, b}, flag, 2);
    for (const auto& p : f.places) canvas.circle(view(p), 2.5, flag, flag);
    // The number stands a little aside, across the way it measures.
    const Vec2 d = b - a;
    const Vec2 aside = norm(d) > 1e-9 ? turned_left(d) / norm(d) : Vec2{{0.7, -0.7}};
    Vec2 at = (a + b) * 0.5 + aside * 18;
    for (int k = 1; k < 24 && labels.covered(badge(at)); ++k) {
        const double turn = k * std::numbers::pi / 4;
        const int round = k / 8;  // eight places round it, then further away
        const double ring = 18.0 + 14.0 * round;
        at = (a + b) * 0.5 + (aside * std::cos(turn) + turned_left(aside) * std::sin(turn)) * ring;
    }
    canvas.circle(at, 10, paper, flag);
    canvas.text({{at[0], at[1] + 4.5}}, std::to_string(number),
                {.size = 13, .strong = true, .colour = flag, .align = Canvas::Align::centre});
    labels.block(badge(at));
}

/// Text in lines that fit the width; the position after it.
double paragraph(Canvas& canvas, const Vec2& at, double width, const std::string& text,
                 const Canvas::TextStyle& style) {
    double y = at[1];
    std::string line;
    std::size_t begin = 0;
    const auto put = [&] {
        canvas.text({{at[0], y}}, line, style);
        y += style.size * 1.35;
        line.clear();
    };
    while (begin < text.size()) {
        const std::size_t end = std::min(text.find(' ', begin), text.size());
        const std::string word = text.substr(begin, end - begin),
                          longer = line.empty() ? word : fmt::format("{} {}", line, word);
        if (!line.empty() && canvas.text_width(longer, style) > width) {
            put();
            line = word;
        } else {
            line = longer;
        }
        begin = end + 1;
    }
    if (!line.empty()) put();
    return y;
}

void draw_list(Canvas& canvas, const StudyAndPart& opened, const PartReport& report) {
    const std::string unit = opened.study.units.label(dimension::length);
    double y = list_top;
    const auto row = [&](const std::string& name, const std::string& value) {
        canvas.text({{list_left, y}}, name, {.size = 13.5, .colour = faint});
        canvas.text({{list_left + 110, y}}, value, {.size = 13.5});
        y += 19;
    };
    row("area", fmt::format("{} {}²", sensible(report.measures.area, 6), unit));
    row("centroid",
        fmt::format("({}, {}) {}", sensible(report.measures.centroid[0]), sensible(report.measures.centroid[1]), unit));
    if (report.mass) row("mass", fmt::format("{} kg", sensible(*report.mass)));
    row("first mesh", fmt::format("about {} elements", grouped(std::llround(report.estimated_elements))));
    if (report.regions.size() > 1) {
        y += 10;
        canvas.text({{list_left, y}}, "regions", {.size = 14, .strong = true});
        y += 21;
        for (std::size_t r = 0; r < report.regions.size() && y < list_bottom - 40; ++r) {
            canvas.fill(
                {{{list_left, y - 12}}, {{list_left + 18, y - 12}}, {{list_left + 18, y + 1}}, {{list_left, y + 1}}},
                ground(r));
            canvas.line(
                {{{list_left, y - 12}}, {{list_left + 18, y - 12}}, {{list_left + 18, y + 1}}, {{list_left, y + 1}}},
                soft, 1, 1, true);
            canvas.text({{list_left + 26, y}},
                        fmt::format("{}: {}", report.regions[r].name,
                                    report.regions[r].material.empty() ? "no material" : report.regions[r].material),
                        {.size = 13.5});
            y += 19;
        }
    }
    y += 12;
    canvas.text({{list_left, y}}, "places to look at", {.size = 14, .strong = true});
    y += 23;
    for (std::size_t k = 0; k < report.findings.size(); ++k) {
        if (y > list_bottom - 34) {
            canvas.text({{list_left + 28, y}}, fmt::format("and {} more in the list", report.findings.size() - k),
                        {.size = 13, .colour = faint});
            break;
        }
        canvas.circle({{list_left + 10, y - 4.5}}, 9, paper, flag);
        canvas.text({{list_left + 10, y}}, std::to_string(k + 1),
                    {.size = 12, .strong = true, .colour = flag, .align = Canvas::Align::centre});
        y = paragraph(canvas, {{list_left + 28, y}}, list_width - 28, report.findings[k].text, {.size = 13}) + 6;
    }
}

Box2 bounds_of_labels() {
    return {{{8, 84}}, {{list_left - 14, 762}}, false};
}

}  // namespace

PictureFiles draw_part(const StudyAndPart& opened, const PartReport& report) {
    const Part& part = opened.part;
    const std::string unit = opened.study.units.label(dimension::length);
    const View view(part.box, part_area);
    return both_formats([&](Canvas& c) {
        heading(
            c, opened.study.title,
            fmt::format("{:.6g} × {:.6g} {}, {} {}, {} edges, {} named boundaries", part.box.size()[0],
                        part.box.size()[1], unit, part.regions.size(), part.regions.size() == 1 ? "region" : "regions",
                        part.edges.size(), part.boundary_names.size()));
        fill_regions(c, part, view);
        draw_edges(c, part, view);
        draw_named_edges(c, part, view);
        overall_dimensions(c, part, view, unit);
        Labels labels(c, bounds_of_labels());
        const Vec2 low = view(part.box.low), high = view(part.box.high);
        labels.block(
            {{{(low[0] + high[0]) / 2 - 60, low[1] + 20}}, {{(low[0] + high[0]) / 2 + 60, low[1] + 54}}, false});
        labels.block(
            {{{low[0] - 90, (low[1] + high[1]) / 2 - 12}}, {{low[0] - 20, (low[1] + high[1]) / 2 + 12}}, false});
        for (std::size_t k = 0; k < report.findings.size(); ++k)
            mark_finding(c, report.findings[k], k + 1, view, labels);
        label_names(part, view, labels);
        label_points(c, part, view, labels);
        draw_list(c, opened, report);
        length_bar(c, view, unit);
    });
}

PictureFiles draw_cleanup(const StudyAndPart& opened) {
    const Part& before = *opened.original;
    const Part& after = opened.part;
    Box2 box = before.box;
    box.add(after.box);
    const View left_view(box, {{{40, 120}}, {{610, 640}}, false}),
        right_view(box, {{{670, 120}}, {{1240, 640}}, false});
    return both_formats([&](Canvas& c) {
        heading(c, opened.study.title + ": clean-up", "as drawn, and as it will be meshed");
        for (const auto& [part, view, title] :
             {std::tuple{&before, &left_view, "as drawn"}, std::tuple{&after, &right_view, "cleaned"}}) {
            fill_regions(c, *part, *view);
            draw_edges(c, *part, *view);
            for (const auto& v : part->vertices) c.circle((*view)(v), 2, ink, ink);
            c.text({{(*view)(box.centre())[0], 106}}, title,
                   {.size = 15, .strong = true, .align = Canvas::Align::centre});
        }
        double y = 672;
        for (std::size_t k = 0; k < opened.cleanup.size(); ++k) {
            const auto& item = opened.cleanup[k];
            for (const View* view : {&left_view, &right_view}) {
                const Vec2 at = (*view)(item.at) + Vec2{{12, -12}};
                c.circle(at, 9, paper, item.done ? category(0) : flag);
                c.text({{at[0], at[1] + 4.5}}, std::to_string(k + 1),
                       {.size = 12, .strong = true, .align = Canvas::Align::centre});
            }
            const std::size_t rows = 5, column = k / rows;
            if (column > 1) continue;
            c.text({{40 + 630.0 * static_cast<double>(column), y + 20 * static_cast<double>(k % rows)}},
                   fmt::format("{}  {}", k + 1, item.what), {.size = 13});
        }
        if (opened.cleanup.size() > 10)
            c.text({{670, y + 100}}, fmt::format("and {} more in the list", opened.cleanup.size() - 10),
                   {.size = 13, .colour = faint});
        length_bar(c, left_view, opened.study.units.label(dimension::length));
    });
}

}  // namespace dotsift
