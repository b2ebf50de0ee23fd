#pragma once
// Results along the paths of a study: a table for each level, and charts over all of them.

#include <map>
#include <string>
#include <vector>

#include "evidence/pictures/picture.hpp"
#include "evidence/report/table.hpp"
#include "series/run.hpp"

namespace dotsift {

/// Membrane, bending and peak at both ends of every straight path, for each load case; no rows where there is none.
/// Components are along the line, across it, out of the plane and the shear; of solids along x, y and z.
Table wall_table(const Study& study, const Level& level, const PathSpec& path);
/// The same as CSV.
std::string wall_csv(const Table& table);
/// One row a sample: distance, position, and every component that was solved for; empty fields outside the part. With
/// several load cases the columns of each have .CASE after their names.
std::string path_csv(const Study& study, const Level& level, const PathSpec& path);

/// One row an integration point: element (counted from 0), position, and every component of the elements' own stress
/// and flux; columns as above.
std::string integration_points_csv(const Study& study, const Level& level);

/// For each path a chart of the field that the pictures show (or that a quantity takes along it), see PathStory.
std::map<std::string, PictureFiles> draw_path_charts(const Study& study, const StudyResult& result);

}  // namespace dotsift
