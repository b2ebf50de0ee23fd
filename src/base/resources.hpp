#pragma once
// Where the program finds what is shipped beside it.

#include <filesystem>
#include <string>

namespace dotsift {

/// A file of the share folder, such as "fonts/Inter-Regular.otf". Throws FileError if it is not there.
std::filesystem::path find_resource(const std::string& name);

/// A loadable module of the program. Throws FileError if it is not there.
std::filesystem::path find_module(const std::string& name);

/// A function of a loadable module, which is loaded when it is first asked for. Throws FileError.
void* module_symbol(const std::string& module, const char* symbol);

}  // namespace dotsift
