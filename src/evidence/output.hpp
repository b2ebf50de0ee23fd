#pragma once
// The output directory: every level as soon as it is done, pictures, charts, tables and the report at the end.

#include <filesystem>
#include <optional>
#include <string>

#include "evidence/provenance.hpp"
#include "evidence/report/report.hpp"
#include "part/checks/check_study.hpp"
#include "series/run.hpp"
#include "study/input_files.hpp"
#include "study/study.hpp"

namespace dotsift {

// Written first, as the study's copy is, so that a directory can be told to hold a result even if the program was
// killed.
inline constexpr const char* provenance_file = "provenance.json";

/// What becomes of an earlier result in the output directory.
enum class Earlier { refuse, replace, resume };

/// Writes below one directory and nowhere else. Throws FileError.
class Output {
  public:
    /// Nothing is created yet.
    Output(std::filesystem::path directory, const StudyAndPart& opened, Provenance provenance);

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
    /// The same of a result that is stored in the directory; nothing else there changes.
    void remake(const StudyResult& result);

    [[nodiscard]] const std::filesystem::path& directory() const { return directory_; }
    [[nodiscard]] const Study& study() const { return study_; }
    /// Pictures and charts that could not be drawn, and why.
    [[nodiscard]] const std::vector<std::string>& troubles() const { return troubles_; }

  private:
    void check_comparable() const;
    void write_evidence(const StudyResult& result);

    std::filesystem::path directory_;
    const StudyAndPart& opened_;
    const Study& study_;
    Provenance provenance_;
    bool resumed_ = false;
    std::vector<std::string> troubles_;
};

/// "series/level-1"
std::string level_folder(const std::string& series, int index);

}  // namespace dotsift
