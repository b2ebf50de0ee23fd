#include "evidence/part_files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <set>

#include "evidence/drawing/colour.hpp"
#include "evidence/levels/xml_text.hpp"

namespace dotsift {

namespace {

constexpr double degrees = 180 / std::numbers::pi;

std::string exact(double v) {
    return fmt::format("{:.17g}", v);
}

std::string layer_of(const Part& part, const PartEdge& e) {
    std::string layer;
    for (const int n : e.names) layer += (layer.empty() ? "" : "+") + part.boundary_names[static_cast<std::size_t>(n)];
    return layer.empty() ? "0" : layer;
}

class DxfWriter {
  public:
    DxfWriter(const Part& part, const UnitSystem& units) : part_(part), units_(units) {}

    std::string run() {
        header();
        entities();
        pair(0, "EOF");
        return std::move(out_);
    }

  private:
    void pair(int code, const std::string& value) { out_ += fmt::format("{}\n{}\n", code, value); }
    void pair(int code, double value) { pair(code, exact(value)); }
    void pair(int code, int value) { pair(code, std::to_string(value)); }
    void point(int code, const Vec2& p) {
        pair(code, p[0]);
        pair(code + 10, p[1]);
        pair(code + 20, 0.0);
    }

    void header() {
        static const std::map<std::string, int> codes{{"in", 1}, {"ft", 2}, {"mm", 4}, {"cm", 5},
                                                      {"m", 6},  {"km", 7}, {"um", 13}};
        const auto code = codes.find(units_.label(dimension::length));
        pair(0, "SECTION");
        pair(2, "HEADER");
        pair(9, "$ACADVER");
        pair(1, "AC1015");
        pair(9, "$INSUNITS");
        pair(70, code == codes.end() ? 0 : code->second);
        pair(0, "ENDSEC");
        std::set<std::string> layers{"0"};
        for (const auto& e : part_.edges) layers.insert(layer_of(part_, e));
        for (const auto& p : part_.points) layers.insert(p.name);
        for (const auto& r : part_.regions) layers.insert("region=" + r);
        pair(0, "SECTION");
        pair(2, "TABLES");
        pair(0, "TABLE");
        pair(2, "LAYER");
        pair(70, static_cast<int>(layers.size()));
        int colour = 1;
        for (const auto& l : layers) {
            pair(0, "LAYER");
            pair(5, fmt::format("{:X}", ++handle_));
            pair(100, "AcDbSymbolTableRecord");
            pair(100, "AcDbLayerTableRecord");
            pair(2, l);
            pair(70, 0);
            pair(62, l == "0" ? 7 : 1 + (colour++ % 6));
            pair(6, "CONTINUOUS");
        }
        pair(0, "ENDTAB");
        pair(0, "ENDSEC");
    }

    void entity(const std::string& kind, const std::string& layer, const std::string& subclass) {
        pair(0, kind);
        pair(5, fmt::format("{:X}", ++handle_));
        pair(100, "AcDbEntity");
        pair(8, layer);
        pair(100, subclass);
    }

    void curve(const Curve& c, const std::string& layer) {
        switch (c.kind()) {
            case Curve::Kind::line:
                entity("LINE", layer, "AcDbLine");
                point(10, c.start());
                point(11, c.end());
                break;
            case Curve::Kind::arc:
                arc(c, layer);
                break;
            case Curve::Kind::spline:
                spline(c, layer);
                break;
            case Curve::Kind::chain:
                for (const auto& l : c.links()) curve(l, layer);
                break;
        }
    }

    void arc(const Curve& c, const std::string& layer) {
        // The format runs anticlockwise: take the other direction if need be.
        const bool left = (c.to_angle() > c.from_angle()) == (cross(c.axis_a(), c.axis_b()) > 0);
        const Curve d = left ? c : c.reversed();
        const Vec2 a = d.axis_a(), b = d.axis_b();
        if (d.circular()) {
            entity(d.closed() ? "CIRCLE" : "ARC", layer, "AcDbCircle");
            point(10, d.centre());
            pair(40, norm(a));
            if (d.closed()) return;
            const auto angle = [&](const Vec2& p) {
                const double phi = std::atan2(p[1] - d.centre()[1], p[0] - d.centre()[0]) * degrees;
                return phi < 0 ? phi + 360 : phi;
            };
            pair(100, "AcDbArc");
            pair(50, angle(d.start()));
            pair(51, angle(d.end()));
            return;
        }
        const bool swap = norm(b) > norm(a);  // the major axis comes first
        const double sign = cross(a, b) > 0 ? 1 : -1;
        const Vec2 major = swap ? b : a;
        double from = d.from_angle() * sign, to = d.to_angle() * sign;
        if (swap) {
            from -= std::numbers::pi / 2 * sign;
            to -= std::numbers::pi / 2 * sign;
        }
        entity("ELLIPSE", layer, "AcDbEllipse");
        point(10, d.centre());
        point(11, major);
        pair(40, std::min(norm(a), norm(b)) / std::max(norm(a), norm(b)));
        pair(41, from);
        pair(42, to);
    }

    void spline(const Curve& c, const std::string& layer) {
        const Nurbs n =
            c.nurbs().restricted(std::min(c.from_angle(), c.to_angle()), std::max(c.from_angle(), c.to_angle()));
        entity("SPLINE", layer, "AcDbSpline");
        pair(70, n.weights.empty() ? 8 : 12);
        pair(71, n.degree);
        pair(72, static_cast<int>(n.knots.size()));
        pair(73, static_cast<int>(n.poles.size()));
        pair(74, 0);
        for (const double k : n.knots) pair(40, k);
        for (std::size_t i = 0; i < n.poles.size(); ++i) {
            point(10, n.poles[i]);
            if (!n.weights.empty()) pair(41, n.weights[i]);
        }
    }

    void entities() {
        pair(0, "SECTION");
        pair(2, "ENTITIES");
        for (const auto& e : part_.edges) curve(e.curve, layer_of(part_, e));
        for (const auto& p : part_.points) {
            entity("POINT", p.name, "AcDbPoint");
            point(10, part_.vertex(p.vertex));
        }
        for (std::size_t f = 0; f < part_.faces.size(); ++f) {
            entity("POINT", "region=" + part_.regions[static_cast<std::size_t>(part_.faces[f].region)], "AcDbPoint");
            point(10, part_.point_inside(f));
        }
        pair(0, "ENDSEC");
    }

    const Part& part_;
    const UnitSystem& units_;
    std::string out_;
    int handle_ = 0x20;
};

/// What follows a "moveto" at the curve's start.
std::string svg_curve(const Curve& c) {
    switch (c.kind()) {
        case Curve::Kind::line:
            return fmt::format("L{} {}", exact(c.end()[0]), exact(c.end()[1]));
        case Curve::Kind::arc: {
            std::string text;
            const int halves = std::fabs(c.to_angle() - c.from_angle()) > 3 ? 2 : 1;  // arcs of less than half a turn
            const double turn = std::atan2(c.axis_a()[1], c.axis_a()[0]) * degrees;
            const bool left = (c.to_angle() > c.from_angle()) == (cross(c.axis_a(), c.axis_b()) > 0);
            for (int k = 1; k <= halves; ++k) {
                const Vec2 p = c.point(static_cast<double>(k) / halves);
                text += fmt::format("A{} {} {} 0 {} {} {}", exact(norm(c.axis_a())), exact(norm(c.axis_b())),
                                    exact(turn), left ? 1 : 0, exact(p[0]), exact(p[1]));
            }
            return text;
        }
        default: {
            // Cubic pieces by end points and end slopes: exact for cubic splines.
            std::string text;
            const auto marks = c.smooth_pieces();
            for (std::size_t i = 1; i < marks.size(); ++i) {
                const double width = marks[i] - marks[i - 1], inset = 1e-12 * width;
                const Vec2 b = c.point(marks[i - 1]) + c.derivative(marks[i - 1] + inset) * (width / 3),
                           d = c.point(marks[i]), e = d - c.derivative(marks[i] - inset) * (width / 3);
                text += fmt::format("C{} {} {} {} {} {}", exact(b[0]), exact(b[1]), exact(e[0]), exact(e[1]),
                                    exact(d[0]), exact(d[1]));
            }
            return text;
        }
    }
}

std::string hexadecimal(const Colour& c) {
    const auto byte = [](double v) { return static_cast<int>(std::lround(255 * v)); };
    return fmt::format("#{:02x}{:02x}{:02x}", byte(c.r), byte(c.g), byte(c.b));
}

}  // namespace

std::string part_dxf(const Part& part, const UnitSystem& units) {
    return DxfWriter(part, units).run();
}

std::string part_svg(const Part& part, const UnitSystem& units) {
    const Vec2 size = part.box.size();
    const double margin = 0.02 * part.box.diagonal(), stroke = 0.0025 * part.box.diagonal();
    const std::string unit = units.label(dimension::length);
    const bool page_unit = unit == "mm" || unit == "cm" || unit == "in";
    std::string text = fmt::format(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{}{}\" "
        "height=\"{}{}\" viewBox=\"{} {} {} {}\">\n<g transform=\"scale(1,-1)\" stroke-linejoin=\"round\" "
        "stroke-linecap=\"round\">\n",
        exact(size[0] + 2 * margin), page_unit ? unit : "", exact(size[1] + 2 * margin), page_unit ? unit : "",
        exact(part.box.low[0] - margin), exact(-part.box.high[1] - margin), exact(size[0] + 2 * margin),
        exact(size[1] + 2 * margin));
    for (const auto& f : part.faces) {
        std::string path;
        for (const auto& loop : f.loops) {
            bool first = true;
            for (const auto& u : loop) {
                const Curve c = u.forward ? part.edge(u.edge).curve : part.edge(u.edge).curve.reversed();
                if (first) path += fmt::format("M{} {}", exact(c.start()[0]), exact(c.start()[1]));
                first = false;
                path += svg_curve(c);
            }
            path += "Z";
        }
        const auto r = static_cast<std::size_t>(f.region);
        text += fmt::format(
            "<path class=\"region {0}\" fill=\"{1}\" fill-opacity=\"0.16\" fill-rule=\"evenodd\" "
            "d=\"{2}\"><title>{0}</title></path>\n",
            escaped(part.regions[r]), hexadecimal(category(f.region)), path);
    }
    for (const auto& e : part.edges) {
        std::string names;
        for (const int n : e.names)
            names += (names.empty() ? "" : " ") + escaped(part.boundary_names[static_cast<std::size_t>(n)]);
        text += fmt::format(
            "<path class=\"{}\" fill=\"none\" stroke=\"{}\" stroke-width=\"{}\" d=\"M{} {}{}\"><title>{}"
            "</title></path>\n",
            names, hexadecimal(names.empty() ? ink : category(e.names.front())),
            exact(names.empty() ? stroke : 2 * stroke), exact(e.curve.start()[0]), exact(e.curve.start()[1]),
            svg_curve(e.curve), names);
    }
    for (const auto& p : part.points) {
        const Vec2& at = part.vertex(p.vertex);
        const double arm = 5 * stroke;
        text += fmt::format(
            "<path class=\"{0}\" stroke=\"{1}\" stroke-width=\"{2}\" d=\"M{3} {4}H{5}M{6} {7}V{8}\"><title>{0}"
            "</title></path>\n",
            escaped(p.name), hexadecimal(ink), exact(stroke), exact(at[0] - arm), exact(at[1]), exact(at[0] + arm),
            exact(at[0]), exact(at[1] - arm), exact(at[1] + arm));
    }
    return text + "</g>\n</svg>\n";
}

}  // namespace dotsift
