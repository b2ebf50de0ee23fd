#pragma once
// One [[part.shape]] of a study file -> ShapeSpec.

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

// In the order of Verb and Change.
inline const std::vector<std::string> change_names{"round", "bevel", "hollow", "mirror", "move", "rotate", "repeat"};
inline const std::vector<std::string> verb_names{"add", "cut", "intersect", "split", "mark", "change"};

/// Faults are noted in the context's problems; the shape is then not sound.
ShapeSpec read_shape(const Section& section);

/// A shape that is no part of the part, from a table with the key "shape"; with `lines` it may be a line.
ShapeSpec read_placed_shape(const Section& section, bool lines);

/// The plane shape that a [[part.shape]] with extrude or revolve of its own draws or turns.
ShapeSpec read_swept_outline(const Section& section, Verb verb, const std::string& name);

/// Which corners, or in space edges, a round or bevel is for.
template <int D>
CornerSpecIn<D> read_corner_choice(const Section& section);

/// region and priority of a shape.
void read_region(const Section& section, std::string& region, std::int64_t& priority);

}  // namespace dotsift
