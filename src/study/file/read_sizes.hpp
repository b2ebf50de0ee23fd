#pragma once
// The [size], [mesh] and [quality] tables of a study.

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

SizeSpec read_sizes(const Section& top);
MeshSpec read_mesh(const Section& top);
/// One [quality.NAME].
QualitySpec read_quality(const Section& section, const std::string& name);

}  // namespace dotsift
