#pragma once
// The tables of the report.

#include "evidence/report/table.hpp"
#include "part/checks/check_study.hpp"
#include "series/outlook.hpp"

namespace dotsift {

/// The first mesh and the last one of each series.
Table comparison_table(const Study& study, const StudyResult& result);
/// Every level of a series.
Table levels_table(const Study& study, const SeriesResult& series);
/// What the levels of a series say of each quantity.
Table convergence_table(const Study& study, const SeriesResult& series);
/// Every quantity with a limit: first those that are not kept, then those not decided, then the others, each by how
/// much of it is used; no rows if there is none.
Table limits_table(const Study& study, const StudyResult& result);
/// The fits by least squares; no rows with fewer than four levels.
Table fits_table(const SeriesResult& series);
/// What the dual problems say on the last level; no rows if there is none.
Table dual_table(const Study& study, const SeriesResult& series);
/// Which regions and boundaries the error of the last level sits at, in percent of the whole energy norm.
Table error_places_table(const SeriesResult& series);
/// Seconds and peak memory of each stage.
Table cost_table(const SeriesResult& series);
/// What every mesh should have in common.
Table shared_table(const Study& study, const std::vector<SharedMeasure>& shared);
/// Loads and reactions on the level with the most unknowns.
Table loads_table(const Study& study, const StudyResult& result);
Table singular_table(const Study& study, const StudyResult& result);
/// The laws of the materials.
Table materials_table(const Study& study);
/// The sizes that the study asks for on its first mesh.
Table sizes_table(const Study& study);
/// Shape of the elements on every level.
Table quality_table(const Study& study, const StudyResult& result);

/// What is said where no singular place is known.
std::string no_singular_places(const Study& study);

}  // namespace dotsift
