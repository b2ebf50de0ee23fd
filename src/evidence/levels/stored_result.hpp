#pragma once
// A result back from the directory that a run wrote.

#include <filesystem>
#include <string>

#include "evidence/provenance.hpp"
#include "part/checks/check_study.hpp"
#include "series/run.hpp"

namespace dotsift {

struct StoredResult {
    std::filesystem::path directory;
    StudyAndPart opened;
    StudyResult result;
    Provenance provenance;
};

/// Throws InputError: what is wrong with a file of a result, and what to do.
[[noreturn]] void refuse_result(const std::filesystem::path& file, const std::string& what, const std::string& remedy);

/// The copy of the study that a result belongs to, with its own title, and the part. Throws InputError if the directory
/// holds no result, or one whose study is damaged.
StudyAndPart stored_study(const std::filesystem::path& directory);

/// Where it came from; what an older result did not note is empty.
Provenance stored_provenance(const std::filesystem::path& directory);

/// Throws InputError if a file of a stored level was changed after it was written.
void verify_levels(const std::filesystem::path& directory);

/// The same with all its levels, bit for bit, and judged anew; nothing is solved. Throws InputError if there is no
/// level or one is damaged.
StoredResult stored_result(const std::filesystem::path& directory);

}  // namespace dotsift
