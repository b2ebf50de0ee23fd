#pragma once
// Where the copies of a shape are put.

#include <vector>

#include "part/curve.hpp"
#include "study/study.hpp"

namespace dotsift {

/// One map for each copy: mirrored, turned, moved, then repeated.
template <int D>
std::vector<AffineIn<D>> copies_of(const PlacementSpecIn<D>& placement);

/// "hole#" -> "hole3"; other names stay.
std::string numbered(const std::string& name, std::size_t number);

}  // namespace dotsift
