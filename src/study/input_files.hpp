#pragma once
// The files that a study reads besides its own, and where their copies stand in a result.

#include <filesystem>
#include <string>
#include <vector>

#include "study/study.hpp"

namespace dotsift {

/// What the copy of a study is called in its result.
inline constexpr const char* study_copy = "study-as-run.toml";

/// Whether a result has a file or folder of this name at its top, but for those of its series.
bool is_of_results(const std::filesystem::path& name);

/// As they stand in the study, each once.
std::vector<std::filesystem::path> input_files(const Study& study);

/// Not below the folder of the study.
bool leads_elsewhere(const std::filesystem::path& file);

/// Where the copy of such a file stands in a result, relative to it: where it stood beside the study, or, if that is
/// elsewhere or where results have files of their own, in "inputs".
std::filesystem::path copied_as(const std::filesystem::path& file);

/// Where to read it: beside the study, or, of a study in a result, its copy.
std::filesystem::path input_path(const std::filesystem::path& study, const std::filesystem::path& file);

/// Its content. Throws FileError, also for what is no regular file, which might never end.
std::string read_input(const std::filesystem::path& study, const std::filesystem::path& file,
                       std::size_t limit = 256U << 20U);

}  // namespace dotsift
