#pragma once
// One HTML file that holds everything: verdict first, details after.

#include <map>
#include <string>
#include <vector>

#include "evidence/level_pictures.hpp"
#include "part/part.hpp"
#include "series/run.hpp"
#include "study/study.hpp"

namespace dotsift {

struct ReportPictures {
    std::map<std::string, PictureFiles> quantity_charts;
    PictureFiles error_chart;
    /// By level_folder(); the first level, which all series share, may be there once only.
    std::map<std::string, LevelPictures> levels;
};

/// Self-contained: pictures stand in it as data, nothing is loaded from elsewhere. Light and dark, prints well.
std::string report_html(const Study& study, const Part& part, const StudyResult& result,
                        const ReportPictures& pictures);

}  // namespace dotsift
