#pragma once
// The materials of a study held against the regions of its part, and against what materials are.

#include "part/part.hpp"
#include "study/diagnostics.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Notes regions with no material or two of them, names of no region, and materials that no region uses.
void check_materials(const Study& study, const PartNames& part, Problems& problems);

/// Warns of moduli that no material has, where the study declares its units: these were mixed up.
void check_plausible(const Study& study, Problems& problems);

}  // namespace dotsift
