#pragma once
// Pictures as pixels, and smaller copies of them.

#include <cstdint>
#include <string>
#include <vector>

namespace dotsift {

/// Rows of opaque ARGB in the machine's own order, as Cairo has them.
struct PixelPicture {
    std::vector<std::uint32_t> pixels{};
    int width = 0;
    [[nodiscard]] bool empty() const { return pixels.empty(); }
    [[nodiscard]] int height() const { return width > 0 ? static_cast<int>(pixels.size()) / width : 0; }
};

/// A picture as pages and documents hold it.
struct PagePicture {
    std::string jpeg{};
    int width = 0, height = 0;
};

/// What a PNG shows. Throws FileError.
PixelPicture pixels_of_png(const std::string& png);

/// Half as wide and half as high, each pixel the mean of four.
PixelPicture halved(const PixelPicture& picture);

}  // namespace dotsift
