#pragma once
// Pictures of a size field over its part, before any mesh is made.

#include <string>

#include "evidence/drawing/view.hpp"
#include "mesh/mesh.hpp"
#include "part/part.hpp"
#include "part/solid/solid_part.hpp"
#include "sizes/size_field.hpp"
#include "study/study.hpp"

namespace dotsift {

/// What a rule of the study does to the field.
template <int D>
struct RuleShareIn {
    int rule = -1;
    std::string name;
    double share = 0;                  ///< of the part's area or volume, where it decides
    double smallest = 0, largest = 0;  ///< size where it decides
    Vec<D> smallest_at;
};
using RuleShare = RuleShareIn<2>;

/// The field at samples inside the part (`columns` of them across): which rules decide where. Rules that decide nowhere
/// are listed with a share of 0.
std::vector<RuleShare> rule_shares(const Part& part, const SizeField& field, const SizeSpec& sizes, int columns = 400);

struct SizePictures {
    PictureFiles sizes;  ///< the size at each place
    PictureFiles rules;  ///< the rule that decides at each place
};
SizePictures draw_sizes(const Part& part, const SizeField& field, const SizeSpec& sizes, const std::string& title,
                        const std::string& length_unit);

/// A mesh of a solid on which sizes are looked at: like the one that they ask for, but of no more elements than can be
/// made in a moment.
SolidMesh size_samples(const SolidPart& part, const SizeFieldIn<3>& field, std::int64_t most_elements);
/// The same at its elements and nodes.
std::vector<RuleShareIn<3>> rule_shares(const SolidMesh& samples, const SizeFieldIn<3>& field, const SizeSpec& sizes);
/// In a section through the place of the smallest size.
SizePictures draw_sizes(const SolidMesh& samples, const SizeFieldIn<3>& field, const SizeSpec& sizes,
                        const std::string& title, const std::string& length_unit);

}  // namespace dotsift
