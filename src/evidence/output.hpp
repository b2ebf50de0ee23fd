#pragma once
// The output directory: every level as soon as it is done, pictures, charts, tables and the report at the end.

#include <filesystem>
#include <optional>
#include <string>

#include "part/check_study.hpp"
#include "series/run.hpp"
#include "study/study.hpp"

namespace dotsift {

/// What becomes of an earlier result in the output directory.
enum class Earlier { refuse, replace, resume };

/// Writes below one directory and nowhere else. Throws FileError.
class Output {
  public:
    /// Nothing is created yet.
    Output(std::filesystem::path directory, const StudyAndPart& opened);

    /// Makes the directory. One that already has files is refused (InputError) unless it holds an earlier result that
    /// may be replaced, which removes it, or resumed: then its levels stay, and it is refused if levels of this study
    /// would not be comparable with them.
    void begin(Earlier earlier);
    /// A level that is there already, if the earlier result is resumed.
    [[nodiscard]] std::optional<Level> stored(const std::string& series, int index) const;
    /// The level's mesh file and numbers.
    void write_level(const Level& level);
    /// Pictures, charts, tables, summary and report.
    void finish(const StudyResult& result);

    [[nodiscard]] const std::filesystem::path& directory() const { return directory_; }

  private:
    void check_comparable() const;

    std::filesystem::path directory_;
    const StudyAndPart& opened_;
    const Study& study_;
    bool resumed_ = false;
};

/// "series/level-1"
std::string level_folder(const std::string& series, int index);

}  // namespace dotsift
