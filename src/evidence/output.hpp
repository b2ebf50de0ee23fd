#pragma once
// The output directory: every level as soon as it is done, pictures, charts, tables and the report at the end.

#include <filesystem>
#include <string>

#include "part/check_study.hpp"
#include "series/run.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Writes below one directory and nowhere else. Throws FileError.
class Output {
  public:
    /// Nothing is created yet.
    Output(std::filesystem::path directory, const StudyAndPart& opened);

    /// Makes the directory. One that already has files is refused (InputError) unless it holds an earlier result and
    /// `replace` is set; then that result is removed.
    void begin(bool replace);
    /// The level's mesh file and numbers.
    void write_level(const Level& level);
    /// Pictures, charts, tables, summary and report.
    void finish(const StudyResult& result);

    [[nodiscard]] const std::filesystem::path& directory() const { return directory_; }

  private:
    std::filesystem::path directory_;
    const StudyAndPart& opened_;
    const Study& study_;
};

/// "series/level-1"
std::string level_folder(const std::string& series, int index);

}  // namespace dotsift
