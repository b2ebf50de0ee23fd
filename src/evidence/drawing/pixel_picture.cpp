#include "evidence/drawing/pixel_picture.hpp"

#include <png.h>

#include "base/errors.hpp"

namespace dotsift {

PixelPicture pixels_of_png(const std::string& png) {
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    if (!png_image_begin_read_from_memory(&image, png.data(), png.size())) throw FileError("a picture cannot be read");
    image.format = PNG_FORMAT_RGBA;
    std::vector<png_byte> bytes(PNG_IMAGE_SIZE(image));
    if (!png_image_finish_read(&image, nullptr, bytes.data(), 0, nullptr)) throw FileError("a picture cannot be read");
    PixelPicture out;
    out.width = static_cast<int>(image.width);
    out.pixels.reserve(bytes.size() / 4);
    for (std::size_t k = 0; k + 3 < bytes.size(); k += 4)
        out.pixels.push_back(0xFF000000U | static_cast<std::uint32_t>(bytes[k]) << 16U |
                             static_cast<std::uint32_t>(bytes[k + 1]) << 8U | bytes[k + 2]);
    return out;
}

PixelPicture halved(const PixelPicture& picture) {
    PixelPicture out;
    out.width = picture.width / 2;
    const auto width = static_cast<std::size_t>(picture.width);
    out.pixels.reserve(picture.pixels.size() / 4);
    for (int y = 0; y + 1 < picture.height(); y += 2) {
        const std::uint32_t* above = picture.pixels.data() + static_cast<std::size_t>(y) * width;
        const std::uint32_t* below = above + width;
        for (int x = 0; x < out.width; ++x, above += 2, below += 2) {
            // Red and blue at once, with room for their carries between them.
            constexpr std::uint32_t red_blue = 0x00FF00FFU, green = 0x0000FF00U;
            const std::uint32_t rb = (above[0] & red_blue) + (above[1] & red_blue) + (below[0] & red_blue) +
                                     (below[1] & red_blue) + 0x00020002U,
                                g = (above[0] & green) + (above[1] & green) + (below[0] & green) + (below[1] & green) +
                                    0x00000200U;
            out.pixels.push_back(0xFF000000U | (rb >> 2U & red_blue) | (g >> 2U & green));
        }
    }
    return out;
}

}  // namespace dotsift
