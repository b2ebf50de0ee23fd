#include "evidence/canvas.hpp"

#include <cairo-ft.h>
#include <cairo-svg.h>
#include <cairo.h>
#include <fmt/format.h>
#include <ft2build.h>
#include FT_FREETYPE_H

#include <array>
#include <map>
#include <regex>

#include "base/errors.hpp"
#include "base/resources.hpp"

namespace dotsift {

namespace {

cairo_font_face_t* font(bool strong) {
    static const auto faces = [] {
        std::array<cairo_font_face_t*, 2> result{};
        static FT_Library library = nullptr;
        if (FT_Init_FreeType(&library) != 0) throw FileError("the font library does not start");
        const std::array<const char*, 2> files{"fonts/Inter-Regular.otf", "fonts/Inter-SemiBold.otf"};
        for (std::size_t k = 0; k < 2; ++k) {
            const auto path = find_resource(files[k]);
            FT_Face face = nullptr;
            if (FT_New_Face(library, path.c_str(), 0, &face) != 0)
                throw FileError(fmt::format("the font {} cannot be read", path.string()), {}, "reinstall the program");
            result[k] = cairo_ft_font_face_create_for_ft_face(face, 0);
        }
        return result;
    }();
    return faces[strong ? 1 : 0];
}

void set_font(cairo_t* c, const Canvas::TextStyle& style) {
    cairo_set_font_face(c, font(style.strong));
    cairo_set_font_size(c, style.size);
}

void set_colour(cairo_t* c, const Colour& colour, double opacity = 1) {
    cairo_set_source_rgba(c, colour.r, colour.g, colour.b, opacity);
}

void trace(cairo_t* c, const std::vector<Vec2>& points) {
    for (std::size_t i = 0; i < points.size(); ++i)
        (i == 0 ? cairo_move_to : cairo_line_to)(c, points[i][0], points[i][1]);
}

cairo_status_t append(void* closure, const unsigned char* data, unsigned int length) {
    static_cast<std::string*>(closure)->append(reinterpret_cast<const char*>(data), length);
    return CAIRO_STATUS_SUCCESS;
}

}  // namespace

double Canvas::text_width(const std::string& text, const TextStyle& style) {
    set_font(cairo_, style);
    cairo_text_extents_t extents;
    cairo_text_extents(cairo_, text.c_str(), &extents);
    return extents.x_advance;
}

void Canvas::text(const Vec2& at, const std::string& text, const TextStyle& style) {
    const double width = text_width(text, style);
    const double shift = style.align == Align::left ? 0 : style.align == Align::centre ? width / 2 : width;
    if (style.halo) {
        cairo_move_to(cairo_, at[0] - shift, at[1]);
        cairo_text_path(cairo_, text.c_str());
        set_colour(cairo_, paper, 0.85);
        cairo_set_line_width(cairo_, 4);
        cairo_set_line_join(cairo_, CAIRO_LINE_JOIN_ROUND);
        cairo_stroke(cairo_);
    }
    cairo_move_to(cairo_, at[0] - shift, at[1]);
    set_colour(cairo_, style.colour);
    cairo_show_text(cairo_, text.c_str());
}

void Canvas::line(const std::vector<Vec2>& points, const Colour& colour, double width, double opacity, bool closed) {
    trace(cairo_, points);
    if (closed) cairo_close_path(cairo_);
    set_colour(cairo_, colour, opacity);
    cairo_set_line_width(cairo_, width);
    cairo_set_line_join(cairo_, CAIRO_LINE_JOIN_ROUND);
    cairo_set_line_cap(cairo_, CAIRO_LINE_CAP_ROUND);
    cairo_stroke(cairo_);
}

void Canvas::fill(const std::vector<Vec2>& points, const Colour& colour, double opacity) {
    trace(cairo_, points);
    cairo_close_path(cairo_);
    set_colour(cairo_, colour, opacity);
    cairo_fill(cairo_);
}

void Canvas::fill_between(const std::vector<std::vector<Vec2>>& loops, const Colour& colour, double opacity) {
    for (const auto& loop : loops) {
        trace(cairo_, loop);
        cairo_close_path(cairo_);
    }
    set_colour(cairo_, colour, opacity);
    cairo_set_fill_rule(cairo_, CAIRO_FILL_RULE_EVEN_ODD);
    cairo_fill(cairo_);
    cairo_set_fill_rule(cairo_, CAIRO_FILL_RULE_WINDING);
}

void Canvas::lines(const std::vector<std::vector<Vec2>>& polylines, const Colour& colour, double width,
                   double opacity) {
    constexpr std::size_t in_one_stroke = 2000;  // the cost of a stroke grows faster than its length
    set_colour(cairo_, colour, opacity);
    cairo_set_line_width(cairo_, width);
    cairo_set_line_cap(cairo_, CAIRO_LINE_CAP_BUTT);
    for (std::size_t i = 0; i < polylines.size(); ++i) {
        trace(cairo_, polylines[i]);
        if ((i + 1) % in_one_stroke == 0) cairo_stroke(cairo_);
    }
    cairo_stroke(cairo_);
}

void Canvas::circle(const Vec2& centre, double radius, const Colour& inner, const Colour& rim) {
    cairo_new_sub_path(cairo_);
    cairo_arc(cairo_, centre[0], centre[1], radius, 0, 2 * M_PI);
    set_colour(cairo_, inner);
    cairo_fill_preserve(cairo_);
    set_colour(cairo_, rim);
    cairo_set_line_width(cairo_, 2);
    cairo_stroke(cairo_);
}

void Canvas::image(const Vec2& at, const Vec2& size, int columns, int rows, std::vector<std::uint32_t>& pixels) {
    cairo_surface_t* surface = cairo_image_surface_create_for_data(reinterpret_cast<unsigned char*>(pixels.data()),
                                                                   CAIRO_FORMAT_ARGB32, columns, rows, columns * 4);
    cairo_save(cairo_);
    cairo_translate(cairo_, at[0], at[1]);
    cairo_scale(cairo_, size[0] / columns, size[1] / rows);
    cairo_set_source_surface(cairo_, surface, 0, 0);
    cairo_pattern_set_filter(cairo_get_source(cairo_), CAIRO_FILTER_NEAREST);
    cairo_pattern_set_extend(cairo_get_source(cairo_), CAIRO_EXTEND_PAD);
    cairo_rectangle(cairo_, 0, 0, columns, rows);
    cairo_fill(cairo_);
    cairo_restore(cairo_);
    cairo_surface_destroy(surface);
}

/// The library numbers what it draws through the whole life of the program. Counting anew in each file makes the same
/// picture the same bytes.
std::string with_own_numbers(const std::string& svg) {
    static const std::regex name("(id=\"|xlink:href=\"#|url\\(#)([a-z]+)([0-9]+)");
    std::map<std::string, std::string> numbers;
    std::string out;
    auto copied = svg.begin();
    for (std::sregex_iterator m(svg.begin(), svg.end(), name), end; m != end; ++m) {
        const std::string kind = (*m)[2].str(), old = kind + (*m)[3].str();
        const bool counted = kind == "surface" || kind == "image" || kind == "clip" || kind == "mask" ||
                             kind == "pattern" || kind == "linear";
        out.append(copied, (*m)[2].first);
        if (counted) {
            const auto found = numbers.try_emplace(old, kind + std::to_string(numbers.size() + 1)).first;
            out += found->second;
        } else {
            out += old;
        }
        copied = (*m)[3].second;
    }
    return out.append(copied, svg.end());
}

std::string render(PictureFormat format, int width, int height, const std::function<void(Canvas&)>& draw) {
    std::string bytes;
    cairo_surface_t* surface = nullptr;
    if (format == PictureFormat::png) {
        surface = cairo_image_surface_create(CAIRO_FORMAT_RGB24, width, height);
    } else {
        surface = cairo_svg_surface_create_for_stream(append, &bytes, width, height);
        cairo_svg_surface_set_document_unit(surface, CAIRO_SVG_UNIT_PX);
    }
    cairo_t* context = cairo_create(surface);
    cairo_set_source_rgb(context, 1, 1, 1);
    cairo_paint(context);
    Canvas canvas(context);
    draw(canvas);
    cairo_status_t status = cairo_status(context);
    cairo_destroy(context);
    if (format == PictureFormat::png && status == CAIRO_STATUS_SUCCESS)
        status = cairo_surface_write_to_png_stream(surface, append, &bytes);
    cairo_surface_finish(surface);
    if (status == CAIRO_STATUS_SUCCESS) status = cairo_surface_status(surface);
    cairo_surface_destroy(surface);
    if (status != CAIRO_STATUS_SUCCESS && status != CAIRO_STATUS_SURFACE_FINISHED)
        throw FileError(fmt::format("a picture could not be drawn: {}", cairo_status_to_string(status)));
    return format == PictureFormat::svg ? with_own_numbers(bytes) : bytes;
}

}  // namespace dotsift
