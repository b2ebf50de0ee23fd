#pragma once
// The report as a document for printing: A4, the verdict on the first page, everything else after it.

#include <string>

#include "evidence/report/report.hpp"

namespace dotsift {

std::string report_pdf(const StudyAndPart& opened, const PartReport& inspected, const StudyResult& result,
                       const ReportPictures& pictures, const Provenance& provenance);

}  // namespace dotsift
