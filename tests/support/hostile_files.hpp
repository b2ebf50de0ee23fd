#pragma once
// Files of every kind that is read from outside, with faults such as fingers, disks and malice make.

#include <filesystem>
#include <functional>
#include <random>
#include <string>
#include <vector>

namespace dotsift::test {

using Random = std::mt19937_64;

/// A kind of files: what they are made from, and what is done with one. `take` tells in a word how it ended, throws
/// dotsift::Error for what is refused, and std::logic_error for what must not be.
struct FileKind {
    std::vector<std::string> seeds;
    std::function<std::string(const std::string& text, const std::filesystem::path& folder, Random& random)> take;
};

/// "drawing" (and the part that comes of it), "mesh" (and the judgement of its quality), "table" (of levels or sizes)
/// "archive" (unpacked: all of it or nothing), "model" (STEP, and its solids) or "facets" (STL, PLY, OFF and OBJ, and
/// their solids); without seeds for any other name.
FileKind file_kind(const std::string& name);

/// One of the seeds with one to five faults.
std::string mutated(const std::vector<std::string>& seeds, Random& random);

}  // namespace dotsift::test
