#pragma once
// What stands where a picture could not be drawn.

#include <string>

#include "evidence/drawing/view.hpp"

namespace dotsift {

/// A picture that says that `title` is left out, and why; its `trouble` is the reason. Never throws: at the worst it is
/// empty.
PictureFiles not_drawn(const std::string& title, const std::string& why) noexcept;

}  // namespace dotsift
