#pragma once
// How much memory may be taken.

#include <filesystem>

namespace dotsift {

/// What the machine has left, or the control groups that the process is in (those of a container), if that is less;
/// bytes, and infinite where neither is told. What they hold of files, and could drop, counts as left. `root` is where
/// the system's files are looked for.
double available_memory(const std::filesystem::path& root = "/");

}  // namespace dotsift
