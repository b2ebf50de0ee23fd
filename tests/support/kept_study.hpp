#pragma once
// Studies of the tests, kept for other uses: bench/guard runs them with two builds.

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <functional>
#include <string>

namespace dotsift::test {

/// Writes a study's text into the folder that the environment variable DOTSIFT_STUDIES_TO names, if there is one.
inline void keep_study(const std::string& text) {
    const char* folder = std::getenv("DOTSIFT_STUDIES_TO");
    if (!folder) return;
    std::filesystem::create_directories(folder);
    std::ofstream(std::filesystem::path(folder) / (std::to_string(std::hash<std::string>{}(text)) + ".toml")) << text;
}

}  // namespace dotsift::test
