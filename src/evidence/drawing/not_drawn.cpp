#include "evidence/drawing/not_drawn.hpp"

namespace dotsift {

PictureFiles not_drawn(const std::string& title, const std::string& why) noexcept {
    PictureFiles out;
    try {
        out = both_formats([&](Canvas& c) { heading(c, title, "left out: " + why); });
        out.trouble = why;
    } catch (...) {  // the reason is lost, not what was computed
    }
    return out;
}

}  // namespace dotsift
