#pragma once
// Pictures of a size field over its part, before any mesh is made.

#include <string>

#include "evidence/drawing/view.hpp"
#include "part/part.hpp"
#include "sizes/size_field.hpp"
#include "study/study.hpp"

namespace dotsift {

/// What a rule of the study does to the field.
struct RuleShare {
    int rule = -1;
    std::string name;
    double area_share = 0;             ///< of the part, where it decides
    double smallest = 0, largest = 0;  ///< size where it decides
    Vec2 smallest_at;
};

/// The field at samples inside the part (`columns` of them across): which rules decide where. Rules that decide nowhere
/// are listed with a share of 0.
std::vector<RuleShare> rule_shares(const Part& part, const SizeField& field, const SizeSpec& sizes, int columns = 400);

struct SizePictures {
    PictureFiles sizes;  ///< the size at each place
    PictureFiles rules;  ///< the rule that decides at each place
};
SizePictures draw_sizes(const Part& part, const SizeField& field, const SizeSpec& sizes, const std::string& title,
                        const std::string& length_unit);

}  // namespace dotsift
