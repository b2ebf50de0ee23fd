#pragma once
// The [size] and [mesh] tables of a study.

#include "study/section.hpp"
#include "study/study.hpp"

namespace dotsift {

SizeSpec read_sizes(const Section& top);
MeshSpec read_mesh(const Section& top);

}  // namespace dotsift
