#pragma once
// PNG, written fast.

#include <cstdint>
#include <string>

namespace dotsift {

/// Rows of premultiplied ARGB in the machine's own order, as Cairo has them; `stride` in bytes. Without `alpha` what is
/// there counts as opaque. Throws FileError.
std::string png_of(const std::uint32_t* pixels, int width, int height, int stride, bool alpha);

}  // namespace dotsift
