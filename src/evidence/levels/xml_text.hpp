#pragma once
// Text for XML and HTML.

#include <string>

namespace dotsift {

/// With the characters that mean something in markup replaced.
std::string escaped(const std::string& text);

}  // namespace dotsift
