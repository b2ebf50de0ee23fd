#include "evidence/pictures/acting_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/errors.hpp"
#include "base/numbers.hpp"
#include "study/formula.hpp"

namespace dotsift {

namespace {

constexpr Box2 area{{{110, 130}}, {{800, 690}}, false};
constexpr double legend_left = 892, legend_top = 128, legend_bottom = 776, legend_width = 360;
constexpr double arrow_spacing = 34, longest_arrow = 46, shortest_arrow = 14, head = 8;
constexpr double sign_spacing = 22, sign_size = 9;
constexpr double along_boundary = 0.3;  // cosine from which a direction is one across it
constexpr int most_arrows = 40;         // on one edge

/// A place on an edge, with the direction off the material (in the part's coordinates).
struct EdgePlace {
    Vec2 at, outward;
};

/// Evenly along an edge, about so many pixels apart; at least one.
std::vector<EdgePlace> places_along(const PartEdge& edge, const View& view, double spacing) {
    const Curve& c = edge.curve;
    const int count = std::clamp(static_cast<int>(c.length() * view.scale() / spacing), 1, most_arrows);
    std::vector<EdgePlace> out;
    for (int k = 0; k < count; ++k) {
        const double t = (k + 0.5) / count;
        const Vec2 d = c.derivative(t);
        const Vec2 right = -turned_left(d) / norm(d);
        out.push_back({c.point(t), edge.left >= 0 ? right : -right});
    }
    return out;
}

void arrow(Canvas& c, const Vec2& tail, const Vec2& tip, const Colour& colour) {
    const Vec2 d = tip - tail;
    if (norm(d) < 1) return;
    const Vec2 along = d / norm(d), across = turned_left(along) * (0.45 * head);
    c.line({tail, tip - along * (0.8 * head)}, colour, 2);
    c.fill({tip, tip - along * head + across, tip - along * head - across}, colour);
}

/// Directions on the part to directions on the picture, where y runs down.
Vec2 on_picture(const Vec2& d) {
    return {{d[0], -d[1]}};
}

/// A turn about a point.
void turn_arrow(Canvas& c, const Vec2& centre, bool anticlockwise, const Colour& colour) {
    constexpr double radius = 20, begin = 0.5, end = 5.6;
    std::vector<Vec2> line;
    for (int k = 0; k <= 30; ++k) {
        const double a = (begin + (end - begin) * k / 30) * (anticlockwise ? -1 : 1);
        line.push_back(centre + Vec2{{std::cos(a), std::sin(a)}} * radius);
    }
    c.line(std::vector<Vec2>(line.begin(), line.end() - 1), colour, 2);
    arrow(c, line[line.size() - 3], line.back(), colour);
}

/// Which directions a support holds at a place with an outward normal, as unit vectors.
std::vector<Vec2> held(const SupportSpec& s, const Vec2& normal) {
    const Vec2 x{{1, 0}}, y{{0, 1}};
    if (s.hold == Hold::fixed) return {x, y};
    if (s.hold == Hold::symmetry) return {normal};
    if (s.hold == Hold::antisymmetry) return {turned_left(normal)};
    std::vector<Vec2> out;
    if (s.displacement[0]) out.push_back(x);
    if (s.displacement[1]) out.push_back(y);
    if (s.normal_displacement || s.normal_stiffness) out.push_back(normal);
    if (s.tangential_stiffness) out.push_back(turned_left(normal));
    return out;
}

/// Held along both directions: hatched. Along one: a small triangle that stands outside and points to the place, or, if
/// that runs along the boundary, a stroke beside it. A bar for what only is known there, such as a temperature.
void held_sign(Canvas& c, const Vec2& at, const Vec2& outward, const std::vector<Vec2>& directions,
               const Colour& colour) {
    if (directions.empty()) {
        const Vec2 out = on_picture(outward);
        c.line({at + out * 3, at + out * (3 + sign_size)}, colour, 2);
        return;
    }
    if (directions.size() > 1) {
        const Vec2 out = on_picture(outward), aside = turned_left(out);
        for (const double shift : {-0.6, 0.4})
            c.line({at + aside * (shift * sign_size), at + aside * ((shift - 0.7) * sign_size) + out * sign_size},
                   colour, 1.4);
        return;
    }
    for (const Vec2& held_along : directions) {
        if (std::fabs(dot(held_along, outward)) < along_boundary) {
            const Vec2 middle = at + on_picture(outward) * (0.6 * sign_size),
                       half = on_picture(held_along) * (0.6 * sign_size);
            c.line({middle - half, middle + half}, colour, 1.8);
            continue;
        }
        const Vec2 d = on_picture(dot(held_along, outward) >= 0 ? held_along : -held_along);
        const Vec2 base = at + d * sign_size, across = turned_left(d) * (0.55 * sign_size);
        c.line({at, base + across, base - across}, colour, 1.4, 1, true);
    }
}

std::string value_text(const Formula& f, const std::string& unit) {
    const std::string number = f.constant ? as_given(*f.constant) : f.source;
    return unit.empty() || !f.constant ? number : number + " " + unit;
}

class ActingPicture {
  public:
    ActingPicture(Canvas& canvas, const StudyAndPart& opened)
        : c_(canvas),
          study_(opened.study),
          part_(opened.part),
          view_(opened.part.box, area),
          file_(study_.path.string()) {}

    void draw() {
        heading(c_, study_.title + ": what holds it, what acts on it", subtitle());
        outline();
        title("supports");
        for (const auto& s : study_.supports) support(s);
        for (const auto& p : study_.periodic) periodic(p);
        for (const auto& r : study_.remotes) remote(r);
        if (study_.supports.empty() && study_.periodic.empty() && study_.remotes.empty()) entry("none", "", {});
        y_ += 10;
        title("loads");
        for (const auto& l : study_.loads) load(l);
        if (study_.loads.empty()) entry("none but prescribed values", "", {});
        length_bar(c_, view_, study_.units.label(dimension::length));
    }

  private:
    [[nodiscard]] std::string subtitle() const {
        if (study_.cases.size() < 2) return "arrows are as long as what they stand for is large, within each load";
        std::vector<std::string> names;
        for (const auto& k : study_.cases) names.push_back(k.name);
        return fmt::format("loads at their full size; load cases: {}", fmt::join(names, ", "));
    }

    void outline() {
        std::vector<std::vector<Vec2>> inner, outer;
        for (const auto& f : part_.faces) c_.fill_between(loops_of(part_, f, view_), {0.93, 0.945, 0.955});
        for (const auto& e : part_.edges) (e.interior() ? inner : outer).push_back(polyline(e.curve, view_));
        c_.lines(inner, ink, 1, 0.5);
        c_.lines(outer, ink, 1.4, 1);
    }

    void title(const std::string& text) {
        c_.text({{legend_left, y_}}, text, {.size = 15, .strong = true});
        y_ += 24;
    }

    /// A line of the list; what does not fit its width is cut.
    void entry(const std::string& name, const std::string& text, const std::optional<Colour>& colour) {
        if (y_ > legend_bottom - 20) {
            if (!full_) c_.text({{legend_left, y_}}, "and more", {.size = 13, .colour = faint});
            full_ = true;
            return;
        }
        if (colour) c_.line({{{legend_left, y_ - 5}}, {{legend_left + 22, y_ - 5}}}, *colour, 4);
        c_.text({{legend_left + 32, y_}}, name, {.size = 14, .strong = true});
        const Canvas::TextStyle style{.size = 13, .colour = faint};
        std::string shown = text;
        while (shown.size() > 4 && c_.text_width(shown, style) > legend_width - 32)
            shown = shown.substr(0, shown.size() - 4) + "...";
        if (!shown.empty()) c_.text({{legend_left + 32, y_ + 17}}, shown, style);
        y_ += shown.empty() ? 24 : 40;
    }

    [[nodiscard]] Colour next_colour() { return category(next_++); }

    void along(const std::vector<std::string>& on, const Colour& colour) {
        std::vector<std::vector<Vec2>> lines;
        for (const int e : part_.edges_named(on)) lines.push_back(polyline(part_.edge(e).curve, view_));
        c_.lines(lines, colour, 4, 0.9);
    }

    void support(const SupportSpec& s) {
        const Colour colour = next_colour();
        std::vector<std::string> what;
        const std::string length = study_.units.label(dimension::length);
        constexpr std::array words{"fixed", "symmetry", "antisymmetry"};
        if (s.hold != Hold::values) what.emplace_back(words[static_cast<std::size_t>(s.hold)]);
        if (s.displacement[0]) what.push_back("ux = " + value_text(*s.displacement[0], length));
        if (s.displacement[1]) what.push_back("uy = " + value_text(*s.displacement[1], length));
        if (s.normal_displacement) what.push_back("normal = " + value_text(*s.normal_displacement, length));
        if (s.founded()) what.emplace_back("elastic foundation");
        if (s.potential)
            what.push_back(fmt::format("{} = {}", study_.conduction.potential, value_text(*s.potential, "")));
        entry(s.name, fmt::format("{}", fmt::join(what, ", ")), colour);
        if (s.at) {
            const Vec2 at = view_(in_plane(*s.at));
            c_.circle(at, 4, colour, paper);
            held_sign(c_, at, {{0, -1}}, held(s, {{0, -1}}), colour);
            return;
        }
        along(s.on, colour);
        for (const int e : part_.edges_named(s.on))
            for (const auto& p : places_along(part_.edge(e), view_, sign_spacing))
                held_sign(c_, view_(p.at), p.outward, held(s, p.outward), colour);
    }

    void periodic(const PeriodicSpec& p) {
        const Colour colour = next_colour();
        entry(p.name,
              fmt::format("{} moves as {}{}", p.between[1], p.between[0], p.turn ? ", turned: cyclic symmetry" : ""),
              colour);
        along({p.between[0], p.between[1]}, colour);
    }

    void remote(const RemoteSpec& r) {
        const Colour colour = next_colour();
        const std::string force = study_.units.label(dimension::force);
        std::vector<std::string> what{r.rigid ? "rigid tie" : "mean tie"};
        if (r.force[0] != 0 || r.force[1] != 0)
            what.push_back(fmt::format("force ({}, {}) {}", sensible(r.force[0]), sensible(r.force[1]), force));
        if (r.moment != 0)
            what.push_back(fmt::format("moment {} {}", sensible(r.moment), study_.units.label(dimension::moment)));
        constexpr std::array names{"ux", "uy", "turn"};
        for (std::size_t k = 0; k < 3; ++k)
            if (r.motion[k]) what.push_back(fmt::format("{} = {}", names[k], sensible(*r.motion[k])));
        entry(r.name, fmt::format("{}", fmt::join(what, ", ")), colour);
        along(r.on, colour);
        const Vec2 at = view_(r.at);
        for (const int e : part_.edges_named(r.on))
            for (const auto& p : places_along(part_.edge(e), view_, 3 * sign_spacing))
                c_.line({at, view_(p.at)}, colour, 0.8, 0.7);
        c_.circle(at, 4, colour, paper);
        const Vec2 f{{r.force[0], r.force[1]}};
        if (norm(f) > 0) arrow(c_, at, at + on_picture(f / norm(f)) * longest_arrow, colour);
        if (r.moment != 0) turn_arrow(c_, at, r.moment > 0, colour);
    }

    /// What a load is, in words and numbers.
    [[nodiscard]] std::string load_text(const LoadSpec& l) const {
        const auto& u = study_.units;
        const auto pair = [&](const char* what, const Dimension& d) {
            return fmt::format("{} ({}, {}) {}", what, value_text(l.components[0], ""), value_text(l.components[1], ""),
                               u.label(d));
        };
        const auto one = [&](const char* what, const Dimension& d) {
            return fmt::format("{} {}", what, value_text(l.components[0], u.label(d)));
        };
        switch (l.kind) {
            case LoadKind::traction:
                return pair("traction", dimension::stress);
            case LoadKind::pressure:
                return one("pressure", dimension::stress);
            case LoadKind::force:
            case LoadKind::point:
                return pair("force", dimension::force);
            case LoadKind::moment:
                return one("moment", dimension::moment);
            case LoadKind::body:
                return pair("force per volume", dimension::force_per_volume);
            case LoadKind::gravity:
                return pair("gravity", dimension::acceleration);
            case LoadKind::rotation:
                return one("rotation at", dimension::angular_speed);
            case LoadKind::temperature_change:
                return one("temperature change", dimension::temperature);
            case LoadKind::flux:
                return one("flux into the part", dimension::heat_flux);
            case LoadKind::flow:
                return one("flow into the part", dimension::power);
            case LoadKind::source:
                return one("source", dimension::heat_source);
            case LoadKind::transfer:
                return fmt::format("transfer {} to {}", value_text(l.components[0], u.label(dimension::transfer)),
                                   value_text(l.components[1], ""));
        }
        return {};
    }

    /// The direction and size of a load at a place of a boundary; of flows along the inward normal. Nothing where a
    /// formula has no value there.
    [[nodiscard]] std::optional<Vec2> at_place(const LoadSpec& l, const EdgePlace& p) const {
        try {
            const FormulaPlace place{p.at, p.outward, l.about};
            const auto value = [&](std::size_t k) {
                return l.components[k].text.empty() ? 0.0 : FormulaEvaluator(l.components[k], file_)(place);
            };
            const double spread = l.spread ? FormulaEvaluator(*l.spread, file_)(place) : 1;
            switch (l.kind) {
                case LoadKind::traction:
                    return Vec2{{value(0), value(1)}};
                case LoadKind::force:
                    return Vec2{{value(0), value(1)}} * spread;
                case LoadKind::transfer:
                    return -p.outward;
                case LoadKind::flow:
                    return -p.outward * (value(0) * spread);
                default:
                    return -p.outward * value(0);
            }
        } catch (const Error&) {
            return {};
        }
    }

    void load(const LoadSpec& l) {
        const Colour colour = next_colour();
        std::string where = l.on.empty() ? "" : " on " + fmt::format("{}", fmt::join(l.on, ", "));
        entry(l.name, load_text(l) + where, colour);
        const auto constant = [&](std::size_t k) { return l.components[k].constant.value_or(0); };
        if (l.at) {
            const Vec2 f{{constant(0), constant(1)}}, at = view_(in_plane(*l.at));
            c_.circle(at, 4, colour, paper);
            if (norm(f) > 0) arrow(c_, at, at + on_picture(f / norm(f)) * longest_arrow, colour);
            return;
        }
        if (is_in_volume(l.kind)) {
            in_volume(l, {{constant(0), constant(1)}}, colour);
            return;
        }
        along(l.on, colour);
        if (l.kind == LoadKind::moment) {
            Box2 box;
            for (const int e : part_.edges_named(l.on)) box.add(part_.edge(e).curve.box());
            if (!box.empty) turn_arrow(c_, view_(box.centre()), constant(0) > 0, colour);
            return;
        }
        std::vector<std::pair<EdgePlace, Vec2>> arrows;
        double largest = 0;
        for (const int e : part_.edges_named(l.on))
            for (const auto& p : places_along(part_.edge(e), view_, arrow_spacing))
                if (const auto d = at_place(l, p)) {
                    arrows.emplace_back(p, *d);
                    largest = std::max(largest, norm(*d));
                }
        for (const auto& [p, d] : arrows) {
            if (!(norm(d) > 0)) continue;
            const double length = shortest_arrow + (longest_arrow - shortest_arrow) * norm(d) / largest;
            const Vec2 along_it = on_picture(d / norm(d)) * length, at = view_(p.at);
            // Outside of the material: pushing ones end at the boundary, pulling ones begin there.
            if (dot(d, p.outward) > 0)
                arrow(c_, at, at + along_it, colour);
            else
                arrow(c_, at - along_it, at, colour);
        }
    }

    /// In regions: an arrow inside the first of them.
    void in_volume(const LoadSpec& l, const Vec2& d, const Colour& colour) {
        const bool directed = l.kind == LoadKind::body || l.kind == LoadKind::gravity;
        if (l.kind == LoadKind::rotation && study_.plane != Plane::axisymmetric) {
            turn_arrow(c_, view_(l.about), true, colour);
            return;
        }
        if (!directed || !(norm(d) > 0)) return;
        const auto wanted = l.on.empty() ? std::vector<int>{} : part_.regions_named(l.on);
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            if (!l.on.empty() && std::find(wanted.begin(), wanted.end(), part_.faces[f].region) == wanted.end())
                continue;
            const Vec2 at = view_(part_.point_inside(f));
            arrow(c_, at, at + on_picture(d / norm(d)) * longest_arrow, colour);
            return;
        }
    }

    Canvas& c_;
    const Study& study_;
    const Part& part_;
    View view_;
    std::string file_;
    double y_ = legend_top;
    int next_ = 0;
    bool full_ = false;
};

}  // namespace

PictureFiles draw_acting(const StudyAndPart& opened) {
    return both_formats([&](Canvas& canvas) { ActingPicture(canvas, opened).draw(); });
}

}  // namespace dotsift
