#pragma once
// Points inside bodies, where the size field wants them.

#include "mesh/solid/tetrahedralisation.hpp"
#include "sizes/size_field.hpp"

namespace dotsift {

/// Adds points inside bodies (see Tetrahedralisation::Within) until every tetrahedron is about as large as the field
/// asks. They are placed as the apexes of near-regular tetrahedra on the front between finished and unfinished ones
/// (Rebay 1993, J. Comput. Phys. 106, in space), so that the mesh grows from the faces inwards. Throws MeshError above
/// `most` tetrahedra.
void fill_bodies(Tetrahedralisation& mesh, const SizeFieldIn<3>& sizes, std::size_t most);

}  // namespace dotsift
