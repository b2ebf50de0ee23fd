#pragma once
// Reading and writing whole files so that a full disk or a killed program never leaves half a file behind.

#include <filesystem>
#include <string>
#include <string_view>

namespace dotsift {

/// The whole content of a file. Throws FileError if it is missing, unreadable or larger than `limit` bytes.
std::string read_file(const std::filesystem::path& path, std::size_t limit = std::size_t{1} << 30);

/// What a file is called, behind its name, until it is whole.
inline constexpr const char* unfinished_suffix = ".part";

/// Writes to a neighbouring temporary file, flushes it to the disk, and renames it into place.
/// Throws FileError, with the temporary file removed.
void write_file(const std::filesystem::path& path, std::string_view content);

/// Creates a directory and its parents. Throws FileError.
void make_directory(const std::filesystem::path& path);

}  // namespace dotsift
