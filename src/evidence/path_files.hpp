#pragma once
// Results along the paths of a study: a table for each level, and charts over all of them.

#include <map>
#include <string>
#include <vector>

#include "evidence/picture.hpp"
#include "series/run.hpp"

namespace dotsift {

/// One row a sample: distance, position, and every component that was solved for; empty fields outside the part. With
/// several load cases the columns of each have .CASE after their names.
std::string path_csv(const Study& study, const LevelFields& fields, const PathSpec& path);

/// One row an integration point: element (counted from 0), position, and every component of the elements' own stress
/// and flux; columns as above.
std::string integration_points_csv(const Study& study, const LevelFields& fields);

/// For each path a chart of the field that the pictures show (or that a quantity takes along it), one curve a level.
std::map<std::string, PictureFiles> draw_path_charts(const Study& study, const StudyResult& result);

}  // namespace dotsift
