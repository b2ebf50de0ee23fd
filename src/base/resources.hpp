#pragma once
// Where the program finds what is shipped beside it.

#include <filesystem>
#include <string>

namespace dotsift {

/// A file of the share folder, such as "fonts/Inter-Regular.otf". Throws FileError if it is not there.
std::filesystem::path find_resource(const std::string& name);

/// A loadable module of the program. Throws FileError if it is not there.
std::filesystem::path find_module(const std::string& name);

}  // namespace dotsift
