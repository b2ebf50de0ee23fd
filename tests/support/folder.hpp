#pragma once
// A folder for the files of one test.

#include <unistd.h>

#include <filesystem>
#include <string>

namespace dotsift::test {

struct Folder {
    std::filesystem::path path;
    Folder() {
        static int count = 0;
        path = std::filesystem::temp_directory_path() /
               ("dotsift-unit-" + std::to_string(::getpid()) + "-" + std::to_string(++count));
        std::filesystem::create_directories(path);
    }
    ~Folder() { std::filesystem::remove_all(path); }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;
};

}  // namespace dotsift::test
