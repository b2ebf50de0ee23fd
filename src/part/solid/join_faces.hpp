#pragma once
// Pieces of one face that nothing parts become one again.

#include <vector>

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// `kin`: pieces of the same face carry the same number, and lie on the same surface. Edges between two of them, with
/// the same bodies on both sides, go; edges that then follow each other on one curve become one, unless `fixed` says
/// that their vertex is to stay. Edges, faces and vertices that nothing uses any more are left out; `kin` follows.
void join_faces(SolidPart& part, std::vector<int>& kin, const std::vector<char>& fixed);

}  // namespace dotsift
