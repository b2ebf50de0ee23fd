#pragma once
// Part and size field -> mesh.

#include <cstdint>
#include <stdexcept>

#include "mesh/mesh.hpp"
#include "mesh/meshing_log.hpp"
#include "mesh/plane/layers.hpp"
#include "part/part.hpp"
#include "sizes/sizing.hpp"
#include "study/study.hpp"

namespace dotsift {

/// A mesh of the elements that the study asks for, with the middle nodes of boundary sides on the true curve and
/// positive Jacobians everywhere. Where several regions meet, the elements share their sides, whatever their shapes.
/// The same input gives the same mesh.
///
/// Where the boundary is too coarse for its surroundings (two boundaries nearer to each other than their segments are
/// long, chords that would cross, elements that the curve would turn inside out) the sizes there are halved and the
/// mesh is begun again, at most `most_rounds` times.
///
/// Throws MeshError with the boundary and position if no valid mesh was found, and InputError, before meshing, if the
/// sizes ask for clearly more than `most_elements`.
///
///     Mesh mesh = generate(part, sizing_of(part, study.sizes, study.path), study.sizes.most_elements, study.mesh);
/// With `log` it is told what was tried.
Mesh generate(const Part& part, const Sizing& sizing, std::int64_t most_elements, const MeshSpec& elements = {},
              MeshingLog* log = nullptr);

/// Throws InputError if the sizes ask for clearly more elements than the limit; otherwise their estimated number.
double check_element_limit(const Part& part, const Sizing& sizing, std::int64_t most_elements);

/// How many triangles the field asks for on the part; stops counting beyond `enough`.
double estimate_elements(const Part& part, const SizeField& sizes, double enough);
/// The same with the rows of layers, two triangles a step and row, in place of what the field asks for there.
double estimate_elements(const Part& part, const Sizing& sizing, double enough);

}  // namespace dotsift
