#pragma once
// One [[part.shape]] of space of a study file -> SpaceShapeSpec.

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Whether an entry is a shape of space, by its name or because it is drawn or turned by itself. Changes are of space
/// where such a shape stands above.
bool is_of_space(const toml::table& shape);

/// Faults are noted in the context's problems; the shape is then not sound.
SpaceShapeSpec read_space_shape(const Section& section, int number);

/// A shape that is no part of the part, from a table with the key "shape".
SpaceShapeSpec read_placed_space_shape(const Section& section);

/// The extrude or revolve of a part or shape, if it has one.
std::optional<SweepSpec> read_sweep(const Section& section);

}  // namespace dotsift
