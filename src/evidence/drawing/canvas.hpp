#pragma once
// A drawing surface: PNG or SVG, the same calls for both. Text is set in the font that is shipped with the program.

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "base/vec.hpp"
#include "evidence/drawing/colour.hpp"
#include "evidence/drawing/pixel_picture.hpp"

struct _cairo;  // NOLINT(bugprone-reserved-identifier): the drawing library's own name

namespace dotsift {

enum class PictureFormat { png, svg };

/// Positions are in pixels, y downwards.
class Canvas {
  public:
    explicit Canvas(_cairo* context) : cairo_(context) {}

    enum class Align { left, centre, right };
    struct TextStyle {
        double size = 14;
        bool strong = false;
        Colour colour = ink;
        Align align = Align::left;
        bool halo = false;  ///< a pale rim, so that it reads on any ground
    };
    void text(const Vec2& at, const std::string& text, const TextStyle& style);
    [[nodiscard]] double text_width(const std::string& text, const TextStyle& style);
    void line(const std::vector<Vec2>& points, const Colour& colour, double width, double opacity = 1,
              bool closed = false);
    void fill(const std::vector<Vec2>& points, const Colour& colour, double opacity = 1);
    /// The area between closed loops, by the even-odd rule.
    void fill_between(const std::vector<std::vector<Vec2>>& loops, const Colour& colour, double opacity = 1);
    /// Many separate polylines in one stroke; much quicker than one by one.
    void lines(const std::vector<std::vector<Vec2>>& polylines, const Colour& colour, double width, double opacity);
    void circle(const Vec2& centre, double radius, const Colour& fill, const Colour& rim);
    /// Premultiplied ARGB pixels, scaled to the given size.
    void image(const Vec2& at, const Vec2& size, int columns, int rows, std::vector<std::uint32_t>& pixels);

    /// A whole picture, as large as fits into a box, at its upper left corner. Documents only.
    void picture(const Box2& box, const PagePicture& picture);
    /// What `draw` draws, as far as it lies in a circle.
    void within_circle(const Vec2& centre, double radius, const std::function<void()>& draw);
    /// The same of a box.
    void within_box(const Box2& box, const std::function<void()>& draw);

  private:
    _cairo* cairo_;
};

/// Renders a drawing to the bytes of a picture file; of a PNG `pixels`, if wanted, gets the colours as 0xAARRGGBB.
/// Throws FileError if the drawing library fails.
std::string render(PictureFormat format, int width, int height, const std::function<void(Canvas&)>& draw,
                   std::vector<std::uint32_t>* pixels = nullptr);

/// The same as colours alone, 0xAARRGGBB; everything that is drawn becomes larger by a scale.
std::vector<std::uint32_t> render_pixels(int width, int height, const std::function<void(Canvas&)>& draw,
                                         double scale = 1);

/// A document of pages of this size in points. `draw` gets the canvas and a call that begins the next page. The same
/// drawing gives the same bytes: there is no date in it.
std::string render_document(const std::string& title, double width, double height,
                            const std::function<void(Canvas&, const std::function<void()>&)>& draw);

}  // namespace dotsift
