#pragma once
// Pictures of one's choice, and those that every study has beside its common ones.

#include <string>
#include <vector>

#include "evidence/pictures/picture.hpp"
#include "series/run.hpp"
#include "study/study.hpp"

namespace dotsift {

/// What a study's pictures should show besides one field on every level: the field of each quantity, the deformed shape
/// of each case (of many cases the first few), of several cases their envelope, and what it asks for itself.
std::vector<PictureSpec> wanted_pictures(const Study& study);

/// What stands below a picture, in words.
std::string caption_of(const Study& study, const PictureSpec& picture);

/// The level that a picture is of; null: there is none.
const Level* level_of(const StudyResult& result, const PictureSpec& picture);

/// Of a result that has such a level. An extreme that sits on a singular place is marked as one without a value.
PictureFiles draw_chosen(const Study& study, const StudyResult& result, const PictureSpec& picture,
                         PictureUse use = PictureUse::files);

}  // namespace dotsift
