#pragma once
// Part and size field -> mesh.

#include <cstdint>
#include <stdexcept>

#include "mesh/mesh.hpp"
#include "part/part.hpp"
#include "sizes/size_field.hpp"

namespace dotsift {

/// Six-node triangles over the part, constrained Delaunay in their corners, with the middle nodes of boundary sides on
/// the true curve and positive Jacobians everywhere. The same input gives the same mesh.
///
/// Where the boundary is too coarse for its surroundings (two boundaries nearer to each other than their segments are
/// long, chords that would cross, elements that the curve would turn inside out) the sizes there are halved and the
/// mesh is begun again, at most `most_rounds` times.
///
/// Throws MeshError with the boundary and position if no valid mesh was found, and InputError, before meshing, if the
/// sizes ask for clearly more than `most_elements`.
///
///     Mesh mesh = generate(part, size_field_of(part, study.sizes), study.sizes.most_elements);
Mesh generate(const Part& part, const SizeField& sizes, std::int64_t most_elements);

/// Throws InputError if the field asks for clearly more elements than the limit.
void check_element_limit(const Part& part, const SizeField& sizes, std::int64_t most_elements);

/// How many triangles the field asks for on the part; stops counting beyond `enough`.
double estimate_elements(const Part& part, const SizeField& sizes, double enough);

}  // namespace dotsift
