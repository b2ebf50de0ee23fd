#include "evidence/webp.hpp"

#include <png.h>
#include <webp/encode.h>

#include <algorithm>
#include <vector>

#include "base/errors.hpp"

namespace dotsift {

namespace {

// Thin lines and text stay clean from here on, at a third of the size of the PNG.
constexpr float quality = 90;
constexpr int effort = 0;  // of 6

/// `import` fills the picture, whose size is set.
template <class Import>
std::string encoded(int width, int height, int widest, Import import) {
    WebPConfig config;
    WebPPicture picture;
    WebPMemoryWriter writer;
    if (!WebPConfigPreset(&config, WEBP_PRESET_DRAWING, quality) || !WebPPictureInit(&picture))
        throw FileError("a picture cannot be encoded");
    const bool small = widest < width;
    config.method = small ? 0 : effort;
    config.use_sharp_yuv = 0;  // twice the time, and no difference to be seen on these pictures
    picture.use_argb = 1;
    picture.width = width;
    picture.height = height;
    WebPMemoryWriterInit(&writer);
    picture.writer = WebPMemoryWrite;
    picture.custom_ptr = &writer;
    const bool good = import(picture) && (picture.width <= widest || WebPPictureRescale(&picture, widest, 0)) &&
                      WebPEncode(&config, &picture);
    std::string out(reinterpret_cast<const char*>(writer.mem), good ? writer.size : 0);
    WebPMemoryWriterClear(&writer);
    WebPPictureFree(&picture);
    if (!good) throw FileError("a picture cannot be encoded");
    return out;
}

}  // namespace

std::string webp_of_png(const std::string& png, int widest) {
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    if (!png_image_begin_read_from_memory(&image, png.data(), png.size())) throw FileError("a picture cannot be read");
    image.format = PNG_FORMAT_RGBA;
    std::vector<std::uint8_t> pixels(PNG_IMAGE_SIZE(image));
    if (!png_image_finish_read(&image, nullptr, pixels.data(), 0, nullptr)) throw FileError("a picture cannot be read");
    const auto width = static_cast<int>(image.width), height = static_cast<int>(image.height);
    return encoded(width, height, widest,
                   [&](WebPPicture& p) { return WebPPictureImportRGBA(&p, pixels.data(), 4 * width) != 0; });
}

void add_webp(PictureFiles& files, int widest) {
    if (files.webp.empty()) {
        const auto& pixels = files.pixels;
        files.webp =
            pixels.empty()
                ? webp_of_png(files.png, widest)
                : encoded(files.width, static_cast<int>(pixels.size()) / files.width, widest, [&](WebPPicture& p) {
                      if (!WebPPictureAlloc(&p)) return false;
                      for (int y = 0; y < p.height; ++y)
                          std::copy_n(pixels.begin() + static_cast<std::ptrdiff_t>(y) * p.width, p.width,
                                      p.argb + static_cast<std::ptrdiff_t>(y) * p.argb_stride);
                      return true;
                  });
    }
    files.pixels = {};
}

}  // namespace dotsift
