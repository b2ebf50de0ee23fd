#pragma once
// The pictures of a study of a solid: its levels, and a field of each quantity.

#include "evidence/pictures/level_pictures.hpp"
#include "evidence/pictures/solid_picture.hpp"

namespace dotsift {

/// From where the extremes of a field on a level are seen.
Camera view_of_extremes(const Level& level, Field field);

/// Mesh, field and error of a level, over ranges that all levels share; and the change from the one before, if there
/// is.
LevelPictures draw_solid_level(const Study& study, const Level& level, const SharedRanges& ranges, const Level* before,
                               PictureUse use);
/// The difference of the shown field to another level, carried over to this level's mesh.
PictureFiles draw_solid_change(const Study& study, const Level& level, const SharedRanges& ranges, const Level& before);

/// A field of a level, with its extremes marked, or on the deformed shape.
PictureFiles draw_solid_chosen(const Study& study, const Level& level, const PictureSpec& picture,
                               const std::vector<SingularPlace>& places, PictureUse use);

/// The solid with its names, as the level's mesh has it.
PictureFiles draw_solid_part(const Study& study, const Level& level);

}  // namespace dotsift
