#pragma once
// The pictures of a study: which fields are shown, over which common ranges.

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "evidence/picture.hpp"
#include "series/run.hpp"
#include "study/study.hpp"

namespace dotsift {

struct LevelPictures {
    PictureFiles mesh, field, error;
    std::optional<PictureFiles> change;  ///< of the field, from the level before
};

/// Colour ranges that all levels of a study share, so that pictures can be compared.
struct SharedRanges {
    Field field = Field::von_mises;
    double low = 0, high = 1;
    bool clipped = false;  ///< values beyond the range exist: a few hot spots would leave the rest without colour
    double error_low = 1e-6, error_high = 1;  ///< elements' share of the energy norm
};

/// The field that a study's pictures show: that of its first quantity that is a field, else the von Mises stress.
Field shown_field(const Study& study);

SharedRanges shared_ranges(const Study& study, const std::vector<const Level*>& levels);

/// `before` is the level before it in its series; null: none.
LevelPictures draw_level(const Study& study, const Level& level, const SharedRanges& ranges, const Level* before);

/// A field of a level's first case less that of another level, carried over, at the slots of the level's mesh.
std::vector<double> change_of(Field field, const LevelFields& before, const LevelFields& now);

/// Charts of every quantity over all series, by quantity name, and the chart of the error against unknowns.
std::map<std::string, PictureFiles> draw_quantity_charts(const Study& study, const StudyResult& result);
PictureFiles draw_error_chart(const Study& study, const StudyResult& result);

}  // namespace dotsift
