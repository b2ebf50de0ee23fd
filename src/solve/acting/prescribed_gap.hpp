#pragma once
// How far elements are from values that formulas prescribe along boundaries.

#include "mesh/mesh.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The largest difference between a prescribed displacement or potential and what the nodes make of it on the sides
/// between them, over the largest value that is prescribed; 0 where all are constant along their boundaries.
/// Neither the recovered field nor a dual problem sees it.
double prescribed_gap(const Mesh& mesh, const Study& study);

}  // namespace dotsift
