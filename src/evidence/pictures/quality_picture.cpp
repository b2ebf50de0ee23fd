#include "evidence/pictures/quality_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/numbers.hpp"
#include "evidence/drawing/raster.hpp"
#include "evidence/pictures/solid_view.hpp"

namespace dotsift {

namespace {

constexpr Colour good_colour{0.80, 0.88, 0.92}, acceptable_colour{0.95, 0.72, 0.25}, poor_colour{0.72, 0.14, 0.12};
constexpr Box2 map_area{{{40, 96}}, {{900, 752}}, false};
constexpr double worst_left = 940;

const Colour& colour_of(Grade g) {
    return g == Grade::poor ? poor_colour : g == Grade::acceptable ? acceptable_colour : good_colour;
}

const char* word_of(Grade g) {
    return g == Grade::poor ? "poor" : g == Grade::acceptable ? "acceptable" : "good";
}

std::string value_text(Criterion c, double v) {
    return sensible(v, 3) + unit_of(c);
}

/// With so few digits that the cause has room behind it.
template <int D>
std::string told_shortly(const Vec<D>& p) {
    std::string s;
    for (std::size_t k = 0; k < D; ++k) s += fmt::format("{}{:.4g}", k == 0 ? "(" : ", ", p[k]);
    return s + ")";
}

/// Beside the map: what its colours mean, and the worst elements, which are numbered where they are seen.
template <int D>
void list_worst(Canvas& c, const QualityReportIn<D>& r,
                const std::function<std::optional<Vec2>(const Vec<D>&)>& seen_at) {
    double y = 124;
    for (const Grade g : {Grade::good, Grade::acceptable, Grade::poor}) {
        c.fill({{{worst_left, y - 11}}, {{worst_left + 14, y - 11}}, {{worst_left + 14, y + 1}}, {{worst_left, y + 1}}},
               colour_of(g));
        c.text({{worst_left + 22, y}}, word_of(g), {.size = 14});
        y += 22;
    }
    y += 20;
    c.text({{worst_left, y}}, "the worst elements", {.size = 14, .strong = true});
    y += 24;
    int number = 0;
    for (const auto& w : r.worst) {
        ++number;
        if (const auto at = seen_at(w.position)) {
            c.circle(*at, 4, ink, paper);
            c.text({{(*at)[0], (*at)[1] - 8}}, fmt::format("{}", number),
                   {.size = 13, .strong = true, .align = Canvas::Align::centre, .halo = true});
        }
        c.text({{worst_left, y}}, fmt::format("{}  {} {}", number, title_of(w.measure), value_text(w.measure, w.value)),
               {.size = 13});
        c.text({{worst_left + 18, y + 16}},
               fmt::format("at {}{}{}", told_shortly<D>(w.position), w.cause.empty() ? "" : ": ", w.cause),
               {.size = 12, .colour = faint});
        y += 42;
    }
}

}  // namespace

PictureFiles draw_quality_map(const Mesh& mesh, const QualityReport& r, const std::string& title,
                              const std::string& length_unit) {
    Box2 box;
    for (const auto& p : mesh.nodes) box.add(p);
    const View view(box, map_area);
    ElementColours elements(mesh, view, map_area, [&](std::size_t e) { return colour_of(r.grade[e]); });
    return both_formats([&](Canvas& c) {
        heading(c, title,
                fmt::format("{} good, {} acceptable, {} poor elements", grouped(static_cast<long long>(r.good)),
                            grouped(static_cast<long long>(r.acceptable)), grouped(static_cast<long long>(r.poor))));
        elements.draw(c);
        list_worst<2>(c, r, [&](const Vec2& at) { return std::optional<Vec2>(view(at)); });
        length_bar(c, view, length_unit);
    });
}

PictureFiles draw_quality_map(const SolidMesh& mesh, const QualityReportIn<3>& r, const std::string& title,
                              const std::string& length_unit) {
    const std::vector<Vec3> still;
    std::optional<PlaneSpec> section;
    if (!r.worst.empty()) section = section_through(mesh, r.worst.front().position);
    SolidView view(mesh, still, dim_on_body, PictureUse::files, section, map_area);
    std::vector<SolidMark> marks;
    for (const auto& w : r.worst) marks.push_back({w.position, {}, 0});
    view.set(view.choose(marks));
    view.paint({{}, [&](const ShownSide& s, double) { return colour_of(r.grade[s.element]); }});
    return both_formats([&](Canvas& c) {
        heading(c, title,
                fmt::format("{} good, {} acceptable, {} poor elements, cut at the worst one",
                            grouped(static_cast<long long>(r.good)), grouped(static_cast<long long>(r.acceptable)),
                            grouped(static_cast<long long>(r.poor))));
        view.draw(c);
        list_worst<3>(c, r, [&](const Vec3& at) { return view.seen_at(at); });
        length_bar(c, view.view(), length_unit);
        view.draw_axes(c);
    });
}

template <int D>
PictureFiles draw_histograms(const MeshIn<D>& mesh, const QualityReportIn<D>& r, const std::vector<QualitySpec>& limits,
                             const std::string& title) {
    constexpr int bins = 24, columns = 3;
    constexpr double width = 340, height = 150, gap_x = 64, gap_y = 72, left = 60, top = 132;
    // The limits of the kind that most elements have.
    std::array<std::size_t, element_kind_count> kinds{};
    for (const auto k : mesh.kinds) ++kinds[static_cast<std::size_t>(k)];
    const auto kind = static_cast<ElementKind>(std::max_element(kinds.begin(), kinds.end()) - kinds.begin());
    const bool quad = D == 2 && corner_count(kind) == 4;
    const auto limits_of = [&](Criterion m) {
        Limits l = standard_limits(m, kind);
        for (const auto& s : limits)
            if (s.measure == m && (!s.quadrilaterals || *s.quadrilaterals == quad) && s.on.empty() && !s.inside &&
                !s.inside_space)
                l = {s.good, s.acceptable};
        return l;
    };
    return both_formats([&](Canvas& c) {
        heading(c, title,
                fmt::format("how the measures of {} elements are spread; colours by the limits for {}",
                            grouped(static_cast<long long>(mesh.element_count())),
                            D == 3 ? "tetrahedra"
                            : quad ? "quadrilaterals"
                                   : "triangles"));
        for (std::size_t k = 0; k < criterion_count; ++k) {
            const auto m = static_cast<Criterion>(k);
            const std::size_t column = k % columns, row = k / columns;
            const double x0 = left + (width + gap_x) * static_cast<double>(column),
                         y0 = top + (height + gap_y) * static_cast<double>(row), y1 = y0 + height;
            c.text({{x0, y0 - 10}}, title_of(m), {.size = 14, .strong = true});
            std::vector<double> values;
            for (const double v : r.values[k])
                if (std::isfinite(v)) values.push_back(v);
            c.line({{{x0, y1}}, {{x0 + width, y1}}}, ink, 1, 0.7);
            if (values.empty()) {
                c.text({{x0, y1 - height / 2}}, "nothing to measure", {.size = 13, .colour = faint});
                continue;
            }
            const auto [least, most] = std::minmax_element(values.begin(), values.end());
            double low = more_is_better(m)                                   ? std::min(0.0, *least)
                         : m == Criterion::skewness || m == Criterion::taper ? 0
                         : m == Criterion::largest_angle                     ? 60
                         : m == Criterion::size_ratio                        ? 0
                                                                             : 1;
            double high = std::max(*most, low + 1e-9);
            if (m == Criterion::shape || m == Criterion::scaled_jacobian || m == Criterion::jacobian_ratio) high = 1;
            if (m == Criterion::smallest_angle) high = quad ? 90 : D == 3 ? 75 : 60;
            if (m == Criterion::skewness) high = std::max(1.0, *most);
            const Limits l = limits_of(m);
            if (!more_is_better(m)) high = std::max(high, l.good + (l.good - low) * 0.25);
            std::array<int, bins> count{};
            for (const double v : values)
                ++count[static_cast<std::size_t>(
                    std::clamp(static_cast<int>((v - low) / (high - low) * bins), 0, bins - 1))];
            const int highest = *std::max_element(count.begin(), count.end());
            for (int b = 0; b < bins; ++b) {
                const int n = count[static_cast<std::size_t>(b)];
                if (n == 0) continue;
                const double h = std::max(1.5, height * n / highest), bar = width / bins;
                const double middle = low + (high - low) * (b + 0.5) / bins;
                const double x = x0 + bar * b;
                c.fill({{{x + 1, y1}}, {{x + bar - 1, y1}}, {{x + bar - 1, y1 - h}}, {{x + 1, y1 - h}}},
                       colour_of(l.grade(m, middle)));
            }
            for (const double limit : {l.good, l.acceptable}) {
                if (limit < low || limit > high) continue;
                const double x = x0 + width * (limit - low) / (high - low);
                c.line({{{x, y0}}, {{x, y1 + 4}}}, ink, 1, 0.5);
            }
            c.text({{x0, y1 + 18}}, value_text(m, low), {.size = 12, .colour = faint});
            c.text({{x0 + width, y1 + 18}}, value_text(m, high),
                   {.size = 12, .colour = faint, .align = Canvas::Align::right});
            c.text({{x0 + width, y0 - 10}},
                   fmt::format("mean {}, worst {}", value_text(m, r.counts[k].mean), value_text(m, r.counts[k].worst)),
                   {.size = 12, .colour = faint, .align = Canvas::Align::right});
        }
    });
}

template PictureFiles draw_histograms<2>(const Mesh&, const QualityReport&, const std::vector<QualitySpec>&,
                                         const std::string&);
template PictureFiles draw_histograms<3>(const SolidMesh&, const QualityReportIn<3>&, const std::vector<QualitySpec>&,
                                         const std::string&);

}  // namespace dotsift
