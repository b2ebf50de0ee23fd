#pragma once
// A result as one file.

#include <filesystem>

namespace dotsift {

/// Every file below a directory into a zip file, under the directory's own name, in the order of their names and
/// without their times, so that the same files give the same archive. Written beside its place and renamed. Throws
/// FileError.
void pack(const std::filesystem::path& directory, const std::filesystem::path& file);

/// The files of an archive that pack() made into a directory that does not exist yet or is empty; the archive's one
/// folder is left out. Throws InputError, before anything is written, for an archive that is damaged, leads outside of
/// the directory, holds anything but one folder of files, or unpacks to more than `most_bytes`.
void unpack(const std::filesystem::path& file, const std::filesystem::path& directory, double most_bytes = 64e9);

}  // namespace dotsift
