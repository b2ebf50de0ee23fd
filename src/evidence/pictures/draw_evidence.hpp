#pragma once
// Every picture and chart of a result.

#include <filesystem>
#include <string>
#include <vector>

#include "evidence/report/report.hpp"

namespace dotsift {

/// Draws what the study wants drawn and writes it below the directory; what the report shows comes back. Nothing that
/// cannot be drawn ends it. Throws FileError.
ReportPictures draw_evidence(const std::filesystem::path& directory, const StudyAndPart& opened,
                             const PartReport& inspected, const StudyResult& result);

/// Pictures and charts that could not be drawn, and why.
std::vector<std::string> troubles_of(const ReportPictures& pictures);

}  // namespace dotsift
