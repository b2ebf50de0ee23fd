#include "evidence/drawing/page_pictures.hpp"

#include <cstdio>

#include <jpeglib.h>

#include <csetjmp>
#include <cstdlib>

#include "base/errors.hpp"

namespace dotsift {

namespace {

// Thin lines and text stay clean from here on.
constexpr int quality = 85;

/// The library tells errors by a jump, since it knows no exceptions.
struct Failure {
    jpeg_error_mgr manager;
    std::jmp_buf back;
};

void fail(j_common_ptr encoder) {
    std::longjmp(reinterpret_cast<Failure*>(encoder->err)->back, 1);  // NOLINT: the manager is its first member
}

}  // namespace

PagePicture page_picture_of(const PixelPicture& picture) {
    PagePicture out;
    out.width = picture.width;
    out.height = picture.height();
    jpeg_compress_struct encoder;
    Failure failure;
    encoder.err = jpeg_std_error(&failure.manager);
    failure.manager.error_exit = fail;
    unsigned char* bytes = nullptr;
    unsigned long count = 0;     // NOLINT(google-runtime-int): the library's type
    if (setjmp(failure.back)) {  // NOLINT: how the library tells errors
        jpeg_destroy_compress(&encoder);
        std::free(bytes);  // NOLINT: the library's memory
        throw FileError("a picture cannot be encoded");
    }
    jpeg_create_compress(&encoder);
    jpeg_mem_dest(&encoder, &bytes, &count);
    encoder.image_width = static_cast<JDIMENSION>(out.width);
    encoder.image_height = static_cast<JDIMENSION>(out.height);
    encoder.input_components = 4;
    encoder.in_color_space = JCS_EXT_BGRX;  // as a little-endian machine has 0xAARRGGBB
    jpeg_set_defaults(&encoder);
    jpeg_set_quality(&encoder, quality, TRUE);
    encoder.comp_info[0].h_samp_factor = encoder.comp_info[0].v_samp_factor = 1;  // colours of every pixel
    jpeg_start_compress(&encoder, TRUE);
    while (encoder.next_scanline < encoder.image_height) {
        const auto first = static_cast<std::size_t>(encoder.next_scanline) * static_cast<std::size_t>(out.width);
        // What is only read is not written to, though the library has no way to say so.
        auto* row = reinterpret_cast<JSAMPROW>(const_cast<std::uint32_t*>(picture.pixels.data() + first));  // NOLINT
        jpeg_write_scanlines(&encoder, &row, 1);
    }
    jpeg_finish_compress(&encoder);
    jpeg_destroy_compress(&encoder);
    out.jpeg.assign(reinterpret_cast<const char*>(bytes), count);
    std::free(bytes);  // NOLINT: the library's memory
    return out;
}

PagePicture page_picture(const PictureFiles& files) {
    return files.page.jpeg.empty() ? page_picture_of(pixels_of_png(files.png)) : files.page;
}

void add_page_copy(PictureFiles& files, PageSize size) {
    if (files.as_drawn.empty() && files.png.empty()) return;  // there is none
    if (files.as_drawn.empty()) files.as_drawn = pixels_of_png(files.png);
    if (files.page.jpeg.empty())
        files.page = page_picture_of(size == PageSize::half ? halved(files.as_drawn) : files.as_drawn);
    files.as_drawn = {};
}

}  // namespace dotsift
