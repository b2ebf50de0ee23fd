#pragma once
// The code verification as files: a page of tables, CSV, JSON and charts.

#include <filesystem>
#include <nlohmann/json.hpp>
#include <string>

#include "verification/verification.hpp"

namespace dotsift {

/// Everything that was checked, with "passed" for the whole.
nlohmann::ordered_json verification_json(const CodeVerification& verification);

/// Tables in Markdown, one for each kind of check.
std::string verification_markdown(const CodeVerification& verification);

/// Writes checks.json, checks.csv, checks.md and a chart of errors against element size for each problem. Throws
/// FileError.
void write_verification(const CodeVerification& verification, const std::filesystem::path& directory);

}  // namespace dotsift
