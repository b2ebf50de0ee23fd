#pragma once
// Supports that ask different things of the same place, found before there is a mesh.

#include "part/part.hpp"
#include "study/diagnostics.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Notes every two supports that prescribe different displacements, or potentials, at a corner of the part or along an
/// edge that both hold, once for each pair.
void check_contradictions(const Study& study, const Part& part, Problems& problems);

}  // namespace dotsift
