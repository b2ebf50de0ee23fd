#include "evidence/drawing/canvas.hpp"

#include <cairo-ft.h>
#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <cairo.h>
#include <fmt/format.h>
#include <ft2build.h>
#include FT_FREETYPE_H

#include <algorithm>
#include <array>
#include <map>
#include <numbers>
#include <string_view>

#include "base/errors.hpp"
#include "base/resources.hpp"
#include "evidence/drawing/png.hpp"

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

/// The same picture encoded, for files that hold it so.
void attach(cairo_surface_t* surface, const char* type, std::string bytes) {
    auto* held = new std::string(std::move(bytes));  // NOLINT
    cairo_surface_set_mime_data(
        surface, type, reinterpret_cast<const unsigned char*>(held->data()), held->size(),
        [](void* owned) { delete static_cast<std::string*>(owned); }, held);  // NOLINT: the surface owns it
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
    constexpr std::size_t in_one_stroke = 2000;  // segments: the cost of a stroke grows faster than its length
    set_colour(cairo_, colour, opacity);
    cairo_set_line_width(cairo_, width);
    cairo_set_line_cap(cairo_, CAIRO_LINE_CAP_BUTT);
    std::size_t segments = 0;
    for (const auto& line : polylines) {
        trace(cairo_, line);
        segments += line.size();
        if (segments < in_one_stroke) continue;
        cairo_stroke(cairo_);
        segments = 0;
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
    if (cairo_surface_get_type(cairo_get_target(cairo_)) != CAIRO_SURFACE_TYPE_IMAGE) {
        // Vector files hold it as PNG; they take this one instead of a slower one of their own.
        attach(surface, CAIRO_MIME_TYPE_PNG, png_of(pixels.data(), columns, rows, columns * 4, true));
    }
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

void Canvas::picture(const Box2& box, const PagePicture& picture) {
    const double scale = std::min(box.size()[0] / picture.width, box.size()[1] / picture.height);
    // The pixels are never looked at: documents take the encoded picture as it is.
    cairo_surface_t* surface = cairo_image_surface_create(CAIRO_FORMAT_RGB24, picture.width, picture.height);
    attach(surface, CAIRO_MIME_TYPE_JPEG, picture.jpeg);
    cairo_save(cairo_);
    cairo_translate(cairo_, box.low[0], box.low[1]);
    cairo_scale(cairo_, scale, scale);
    cairo_set_source_surface(cairo_, surface, 0, 0);
    cairo_paint(cairo_);
    cairo_restore(cairo_);
    cairo_surface_destroy(surface);
}

void Canvas::within_circle(const Vec2& centre, double radius, const std::function<void()>& draw) {
    cairo_save(cairo_);
    cairo_new_path(cairo_);
    cairo_arc(cairo_, centre[0], centre[1], radius, 0, 2 * std::numbers::pi);
    cairo_clip(cairo_);
    draw();
    cairo_restore(cairo_);
}

void Canvas::within_box(const Box2& box, const std::function<void()>& draw) {
    cairo_save(cairo_);
    cairo_new_path(cairo_);
    cairo_rectangle(cairo_, box.low[0], box.low[1], box.size()[0], box.size()[1]);
    cairo_clip(cairo_);
    draw();
    cairo_restore(cairo_);
}

/// The library numbers what it draws through the whole life of the program. Counting anew in each file makes the same
/// picture the same bytes.
std::string with_own_numbers(const std::string& svg) {
    constexpr std::array<std::string_view, 3> before{"id=\"", "xlink:href=\"#", "url(#"};
    constexpr std::array<std::string_view, 6> counted{"surface", "image", "clip", "mask", "pattern", "linear"};
    std::map<std::string, std::string> numbers;
    std::string out;
    out.reserve(svg.size());
    std::size_t copied = 0;
    for (std::size_t at = 0; at < svg.size(); ++at) {
        // Each of the three ends with one of two characters; most of a picture is neither.
        if (svg[at] != '"' && svg[at] != '#') continue;
        const bool names = std::any_of(before.begin(), before.end(), [&](std::string_view b) {
            return at + 1 >= b.size() && std::string_view(svg).substr(at + 1 - b.size(), b.size()) == b;
        });
        if (!names) continue;
        std::size_t letters = at + 1;
        while (letters < svg.size() && svg[letters] >= 'a' && svg[letters] <= 'z') ++letters;
        std::size_t digits = letters;
        while (digits < svg.size() && svg[digits] >= '0' && svg[digits] <= '9') ++digits;
        const std::string kind = svg.substr(at + 1, letters - at - 1);
        if (digits == letters || std::find(counted.begin(), counted.end(), kind) == counted.end()) continue;
        const std::string old = svg.substr(at + 1, digits - at - 1);
        out.append(svg, copied, at + 1 - copied);
        out += numbers.try_emplace(old, kind + std::to_string(numbers.size() + 1)).first->second;
        copied = digits;
        at = digits - 1;
    }
    return out.append(svg, copied, std::string::npos);
}

namespace {

/// Ends a drawing: whatever went wrong comes out here.
void end_drawing(cairo_surface_t* surface, cairo_t* context) {
    cairo_status_t status = cairo_status(context);
    cairo_destroy(context);
    cairo_surface_finish(surface);
    if (status == CAIRO_STATUS_SUCCESS) status = cairo_surface_status(surface);
    cairo_surface_destroy(surface);
    if (status != CAIRO_STATUS_SUCCESS && status != CAIRO_STATUS_SURFACE_FINISHED)
        throw FileError(fmt::format("a picture could not be drawn: {}", cairo_status_to_string(status)));
}

cairo_t* white_page(cairo_surface_t* surface) {
    cairo_t* context = cairo_create(surface);
    cairo_set_source_rgb(context, 1, 1, 1);
    cairo_paint(context);
    return context;
}

}  // namespace

std::vector<std::uint32_t> render_pixels(int width, int height, const std::function<void(Canvas&)>& draw,
                                         double scale) {
    cairo_surface_t* surface = cairo_image_surface_create(CAIRO_FORMAT_RGB24, width, height);
    cairo_t* context = white_page(surface);
    cairo_scale(context, scale, scale);
    if (scale != 1) {  // letters stand where they would in the large picture, not on whole pixels
        cairo_font_options_t* options = cairo_font_options_create();
        cairo_font_options_set_hint_metrics(options, CAIRO_HINT_METRICS_OFF);
        cairo_font_options_set_hint_style(options, CAIRO_HINT_STYLE_NONE);
        cairo_set_font_options(context, options);
        cairo_font_options_destroy(options);
    }
    Canvas canvas(context);
    draw(canvas);
    std::vector<std::uint32_t> pixels;
    if (cairo_status(context) == CAIRO_STATUS_SUCCESS) {
        cairo_surface_flush(surface);
        // Rows of 32-bit pixels have no gaps between them.
        const auto* data = reinterpret_cast<const std::uint32_t*>(cairo_image_surface_get_data(surface));
        pixels.assign(data, data + static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
        for (auto& p : pixels) p |= 0xFF000000U;
    }
    end_drawing(surface, context);
    return pixels;
}

std::string render(PictureFormat format, int width, int height, const std::function<void(Canvas&)>& draw,
                   std::vector<std::uint32_t>* pixels) {
    if (format == PictureFormat::png) {
        auto drawn = render_pixels(width, height, draw);
        std::string bytes = png_of(drawn.data(), width, height, 4 * width, false);
        if (pixels) *pixels = std::move(drawn);
        return bytes;
    }
    std::string bytes;
    cairo_surface_t* surface = cairo_svg_surface_create_for_stream(append, &bytes, width, height);
    cairo_svg_surface_set_document_unit(surface, CAIRO_SVG_UNIT_PX);
    cairo_t* context = white_page(surface);
    Canvas canvas(context);
    draw(canvas);
    end_drawing(surface, context);
    return with_own_numbers(bytes);
}

std::string render_document(const std::string& title, double width, double height,
                            const std::function<void(Canvas&, const std::function<void()>&)>& draw) {
    std::string bytes;
    cairo_surface_t* surface = cairo_pdf_surface_create_for_stream(append, &bytes, width, height);
    cairo_pdf_surface_set_metadata(surface, CAIRO_PDF_METADATA_TITLE, title.c_str());
    cairo_pdf_surface_set_metadata(surface, CAIRO_PDF_METADATA_CREATE_DATE, "2000-01-01T00:00:00Z");
    cairo_t* context = cairo_create(surface);
    Canvas canvas(context);
    draw(canvas, [&] { cairo_show_page(context); });
    end_drawing(surface, context);
    return bytes;
}

}  // namespace dotsift
