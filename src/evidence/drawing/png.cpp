#include "evidence/drawing/png.hpp"

#include <png.h>

#include <algorithm>
#include <csetjmp>
#include <vector>

#include "base/errors.hpp"

namespace dotsift {

namespace {

// Of 9. Meshes and smooth fields come out a fifth larger than at the standard 6, in a fifth of the time.
constexpr int deflate_level = 1;

void append(png_structp png, png_bytep data, png_size_t size) {
    static_cast<std::string*>(png_get_io_ptr(png))->append(reinterpret_cast<const char*>(data), size);
}
void flush(png_structp /*png*/) {}

}  // namespace

std::string png_of(const std::uint32_t* pixels, int width, int height, int stride, bool alpha) {
    std::string bytes;
    const int channels = alpha ? 4 : 3;
    std::vector<png_byte> row(static_cast<std::size_t>(width) * static_cast<std::size_t>(channels));
    png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
    png_infop info = png ? png_create_info_struct(png) : nullptr;
    if (!info || setjmp(png_jmpbuf(png))) {  // NOLINT: how the library tells errors
        png_destroy_write_struct(&png, &info);
        throw FileError("a picture could not be encoded");
    }
    png_set_write_fn(png, &bytes, append, flush);
    png_set_compression_level(png, deflate_level);
    png_set_filter(png, PNG_FILTER_TYPE_BASE, PNG_FILTER_NONE);  // smaller than with any other, and the quickest
    png_set_IHDR(png, info, static_cast<png_uint_32>(width), static_cast<png_uint_32>(height), 8,
                 alpha ? PNG_COLOR_TYPE_RGBA : PNG_COLOR_TYPE_RGB, PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT,
                 PNG_FILTER_TYPE_DEFAULT);
    png_write_info(png, info);
    for (int y = 0; y < height; ++y) {
        const auto* line = reinterpret_cast<const std::uint32_t*>(reinterpret_cast<const char*>(pixels) +
                                                                  static_cast<std::ptrdiff_t>(y) * stride);
        png_byte* out = row.data();
        for (int x = 0; x < width; ++x) {
            const std::uint32_t p = line[x], a = alpha ? p >> 24U : 255U;
            for (const unsigned shift : {16U, 8U, 0U}) {
                const std::uint32_t c = p >> shift & 255U;
                *out++ = static_cast<png_byte>(a == 0 ? 0 : a == 255 ? c : std::min(255U, (c * 255U + a / 2) / a));
            }
            if (alpha) *out++ = static_cast<png_byte>(a);
        }
        png_write_row(png, row.data());
    }
    png_write_end(png, nullptr);
    png_destroy_write_struct(&png, &info);
    return bytes;
}

}  // namespace dotsift
