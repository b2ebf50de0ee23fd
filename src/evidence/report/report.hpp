#pragma once
// One HTML file that holds everything: verdict first, details after.

#include <map>
#include <string>
#include <vector>

#include "evidence/pictures/level_pictures.hpp"
#include "evidence/provenance.hpp"
#include "inspect/inspect.hpp"
#include "series/run.hpp"
#include "study/study.hpp"

namespace dotsift {

/// A picture of the fields, see wanted_pictures.
struct NamedPicture {
    std::string name, caption;
    PictureFiles files;
};

/// What a report shows; where pictures are left out, they are empty.
struct ReportPictures {
    PictureFiles part, acting;
    std::vector<NamedPicture> chosen;
    std::optional<PictureFiles> cleanup;  ///< the part before and after, if there was a clean-up
    std::map<std::string, PictureFiles> quantity_charts;
    std::map<std::string, PictureFiles> quantity_error_charts;
    std::map<std::string, PictureFiles> path_charts;
    PictureFiles error_chart, time_chart;
    /// By quantity: round its peak, on the finest level of the series that answers best.
    std::map<std::string, PictureFiles> close_ups;
    /// By level_folder(); the first level, which all series share, may be there once only.
    std::map<std::string, LevelPictures> levels;
};

/// Self-contained: pictures stand in it as data, nothing is loaded from elsewhere. Light and dark, prints well.
std::string report_html(const StudyAndPart& opened, const PartReport& inspected, const StudyResult& result,
                        const ReportPictures& pictures, const Provenance& provenance);

}  // namespace dotsift
