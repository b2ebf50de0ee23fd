#pragma once
// A level back from the files that a run wrote.

#include <filesystem>
#include <optional>

#include "part/checks/check_study.hpp"
#include "part/part.hpp"
#include "series/level.hpp"
#include "study/study.hpp"

namespace dotsift {

/// In each level's folder: the SHA-256 of its files, as sha256sum writes and checks them.
inline constexpr const char* checksums_file = "SHA256SUMS";

/// The level in this folder, bit for bit as it was; nothing if its level.json is missing, which is written last. Throws
/// InputError if the files do not belong to the study and its part, or are damaged.
std::optional<Level> stored_level(const std::filesystem::path& folder, const Study& study, const Part& part);
std::optional<Level> stored_level(const std::filesystem::path& folder, const Study& study, const SolidPart& part);
/// Of the part or the solid of a study that was opened.
std::optional<Level> stored_level(const std::filesystem::path& folder, const StudyAndPart& opened);

/// Throws InputError if a file of the level was changed after it was written.
void verify_level(const std::filesystem::path& folder);

}  // namespace dotsift
