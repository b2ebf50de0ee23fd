#pragma once
// Running the built program on files in a temporary folder.

#include <filesystem>
#include <string>
#include <vector>

namespace dotsift::test {

/// A folder that vanishes with its owner.
class TemporaryFolder {
  public:
    TemporaryFolder();
    ~TemporaryFolder();
    TemporaryFolder(const TemporaryFolder&) = delete;
    TemporaryFolder& operator=(const TemporaryFolder&) = delete;
    [[nodiscard]] std::filesystem::path operator/(const std::string& name) const { return path_ / name; }
    [[nodiscard]] const std::filesystem::path& path() const { return path_; }
    /// Writes a file and returns its path.
    std::string file(const std::string& name, const std::string& content) const;

  private:
    std::filesystem::path path_;
};

struct Outcome {
    int status = 0;
    std::string out, err;
};

/// Runs the program with these arguments in a folder. After `signal_after` seconds it gets SIGINT, or SIGKILL if the
/// number is negative (0: never). `file_limit` bounds the size of every file it writes (0: no bound); `path` replaces
/// PATH.
Outcome run(const std::vector<std::string>& arguments, const std::filesystem::path& folder = ".",
            double signal_after = 0, long file_limit = 0, const std::string& path = {});

/// Whether a text holds another one.
bool has(const std::string& text, const std::string& part);

std::string content_of(const std::filesystem::path& path);

/// A small valid study; `extra` is appended.
std::string small_study(const std::string& extra = {});

}  // namespace dotsift::test
