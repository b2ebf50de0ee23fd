#pragma once
// The tables of the report, as HTML.

#include <string>

#include "part/check_study.hpp"
#include "series/outlook.hpp"

namespace dotsift {

/// The first mesh and the last one of each series.
std::string comparison_table(const Study& study, const StudyResult& result);
/// Every level of a series.
std::string levels_table(const Study& study, const SeriesResult& series);
/// What the levels of a series say of each quantity.
std::string convergence_table(const Study& study, const SeriesResult& series);
/// The fits by least squares; empty with fewer than four levels.
std::string fits_table(const SeriesResult& series);
/// What the dual problems say on the last level; empty if there is none.
std::string dual_table(const Study& study, const SeriesResult& series);
/// Seconds and peak memory of each stage.
std::string cost_table(const SeriesResult& series);
/// What every mesh should have in common.
std::string shared_table(const Study& study, const std::vector<SharedMeasure>& shared);
/// Loads and reactions on the level with the most unknowns.
std::string loads_table(const Study& study, const StudyResult& result);
std::string singular_table(const StudyResult& result);
/// Materials, supports, loads, and sizes that the study gives.
std::string materials_table(const Study& study);
/// Shape of the elements on every level.
std::string quality_table(const Study& study, const StudyResult& result);

}  // namespace dotsift
