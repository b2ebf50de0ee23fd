#pragma once
// The pictures of a study: which fields are shown, over which common ranges.

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "evidence/drawing/camera.hpp"
#include "evidence/pictures/picture.hpp"
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
    std::vector<SingularPlace> places;        ///< where an extreme has no value to believe
    std::optional<Camera> camera;             ///< of solids: from where the extremes of the last level are seen
};

/// What the colours of a field should span: all of its values, unless a few hot spots would leave the rest without
/// colour.
struct ColourRange {
    double low = 0, high = 1;
    bool clipped = false;
    double lowest = 0, highest = 1;  ///< of the values
};
ColourRange colour_range(const Mesh& mesh, const std::vector<double>& slots);
ColourRange colour_range(const SolidMesh& mesh, const std::vector<double>& slots);

/// Each element's error per root of its area or volume, relative: what refinement evens out.
std::vector<double> error_density(const Level& level);

/// What stands over a level's pictures.
std::string level_title(const Study& study, const Level& level);
std::string level_counts(const Level& level);

/// What stands beside a marked extreme that sits on a place where the exact field is infinite; empty: its value.
template <int D>
std::string label_without_value(const LevelFieldsIn<D>& fields, Field field, std::size_t load_case, bool largest,
                                const Vec<D>& at, const std::vector<SingularPlace>& places);

/// The field that a study's pictures show: that of its first quantity that is a field, else the von Mises stress.
Field shown_field(const Study& study);

SharedRanges shared_ranges(const Study& study, const std::vector<const Level*>& levels,
                           std::vector<SingularPlace> places = {});

/// Pictures of fields are made of pixels; as vectors, which take as long again, where a study wants all pictures.
PictureUse use_of_fields(const Study& study);

/// `before` is the level before it in its series; null: none.
LevelPictures draw_level(const Study& study, const Level& level, const SharedRanges& ranges, const Level* before,
                         PictureUse use = PictureUse::files);

/// Where and how the surroundings of a quantity's peak are shown: its own field within ten elements of it.
struct CloseUp {
    std::size_t quantity = 0;
    Circle circle;
    double low = 0, high = 1;  ///< of the field there
};
/// Of a level on which the quantity is a peak and has a position.
CloseUp close_up_of(const Study& study, const Level& level, std::size_t quantity);
/// The same view of any level.
PictureFiles draw_close_up(const Study& study, const Level& level, const CloseUp& view,
                           const std::vector<SingularPlace>& places = {});

/// The difference of the shown field to another level, carried over to this level's mesh.
PictureFiles draw_change(const Study& study, const Level& level, const SharedRanges& ranges, const Level& before);

/// Charts of every quantity over all series, by quantity name, and the chart of the error against unknowns.
std::map<std::string, PictureFiles> draw_quantity_charts(const Study& study, const StudyResult& result);
/// By quantity: how far each level is from the best value known, against element size, both logarithmic. None where
/// there is no such value.
std::map<std::string, PictureFiles> draw_quantity_error_charts(const Study& study, const StudyResult& result);

enum class CostAxis { unknowns, seconds };
PictureFiles draw_error_chart(const Study& study, const StudyResult& result, CostAxis axis);

/// A quantity that is made of a field of the plane.
bool is_plane_field(const QuantitySpec& quantity);

/// A largest or smallest value.
bool is_peak(const QuantitySpec& quantity);

/// The finest level of the series that answers best for a quantity, if that is a largest or smallest value and sits
/// somewhere; else null.
const Level* level_of_peak(const Study& study, const StudyResult& result, std::size_t quantity);

}  // namespace dotsift
