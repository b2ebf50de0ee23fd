#pragma once
// Other programs that this one starts, and a folder for what passes between them.

#include <filesystem>
#include <string>
#include <vector>

namespace dotsift {

/// Runs a program to its end, without input and with its output thrown away. The exit status; 128 + the signal that
/// ended it. Throws FileError if it cannot be started.
int run_child(const std::filesystem::path& program, const std::vector<std::string>& arguments);

/// A new folder among the system's temporary files, which goes with everything in it. Throws FileError.
class TemporaryFolder {
  public:
    TemporaryFolder();
    ~TemporaryFolder();
    TemporaryFolder(const TemporaryFolder&) = delete;
    TemporaryFolder& operator=(const TemporaryFolder&) = delete;
    [[nodiscard]] const std::filesystem::path& path() const { return path_; }

  private:
    std::filesystem::path path_;
};

}  // namespace dotsift
