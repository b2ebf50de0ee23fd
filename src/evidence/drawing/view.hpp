#pragma once
// What all pictures of parts and meshes share: their size, where the part stands on them, heading and length bar.

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "evidence/drawing/canvas.hpp"
#include "evidence/drawing/pixel_picture.hpp"
#include "part/part.hpp"

namespace dotsift {

inline constexpr int picture_width = 1280, picture_height = 800;
inline constexpr double page_scale = 0.375;  ///< of pictures that a page alone shows: 480 pixels wide

/// Where the part is drawn if a colour bar or a short legend stands on its right.
inline constexpr Box2 field_area{{{40, 96}}, {{1060, 752}}, false};

struct PictureFiles {
    std::string png, svg;
    PixelPicture as_drawn{};  ///< the PNG, so that copies need not decode it; may be empty
    PagePicture page{};       ///< for pages and documents; empty: made when it is needed
    std::string trouble{};    ///< why it could not be drawn; what stands there instead says so
    [[nodiscard]] bool drawn() const { return !png.empty() || !svg.empty() || !page.jpeg.empty() || !as_drawn.empty(); }
};

/// Part coordinates to pixels: equal scales, centred in an area of the picture.
class View {
  public:
    View(const Box2& part, const Box2& area);
    [[nodiscard]] Vec2 operator()(const Vec2& p) const {
        return {{origin_[0] + p[0] * scale_, origin_[1] - p[1] * scale_}};
    }
    [[nodiscard]] double scale() const { return scale_; }

  private:
    double scale_ = 1;
    Vec2 origin_;
};

/// The curve as pixels, with a point about every few pixels along its bends.
std::vector<Vec2> polyline(const Curve& curve, const View& view);

/// The loops of a face as closed lines of pixels.
std::vector<std::vector<Vec2>> loops_of(const Part& part, const PartFace& face, const View& view);

void heading(Canvas& c, const std::string& title, const std::string& subtitle);

/// A bar of a round length in the part's unit, at the bottom left.
void length_bar(Canvas& c, const View& view, const std::string& unit);

/// What there is of a picture: STEM.png and STEM.svg. Throws FileError.
void write_picture(const std::filesystem::path& stem, const PictureFiles& files);

/// What a picture is for: files in both formats, a file of pixels, or a page alone, which needs its pixels.
enum class PictureUse { files, pixels, page };
constexpr double scale_for(PictureUse use) {
    return use == PictureUse::page ? page_scale : 1;
}

PictureFiles both_formats(const std::function<void(Canvas&)>& draw, PictureUse use = PictureUse::files);

}  // namespace dotsift
