#pragma once
// A study whose first mesh can be made: what [mesh.retry] allows is tried until it can.

#include <string>
#include <vector>

#include "base/errors.hpp"
#include "part/check_study.hpp"

namespace dotsift {

/// A way to make the first mesh, and why it failed.
struct FailedTry {
    double sizes = 1;         ///< factor on every size
    double merge_points = 0;  ///< length below which points of the part became one; 0: as the study says
    std::string reason;
    Place place;
};

struct Prepared {
    StudyAndPart opened;  ///< with sizes and clean-up as in the try that led to a mesh
    std::vector<FailedTry> failed;
};

/// Makes the first mesh for trial if the study has a rule for tries, and keeps the first change of sizes and part that
/// leads to one, for all levels, so that they stay comparable. Without a rule nothing is tried. `finer` divides the
/// sizes. Throws MeshError, with what each try did in `failed`, if none does.
void prepare(Prepared& prepared, double finer = 1);

}  // namespace dotsift
