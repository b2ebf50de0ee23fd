#pragma once
// Solid and sizes -> mesh.

#include "mesh/mesh.hpp"
#include "mesh/meshing_log.hpp"
#include "mesh/solid/surface_mesh.hpp"

namespace dotsift {

/// Tetrahedra of polynomial degree 1 or 2, whose nodes on faces and edges lie on the true ones, with positive Jacobians
/// everywhere; regions share their nodes where they meet. Faces are meshed first; where tetrahedra of their points
/// alone do not have all their triangles, or a curved element would be spoilt, sizes are halved and it is begun again,
/// as in the plane. Then bodies are filled and improved. The same input gives the same mesh.
///
/// Throws MeshError with face and position if no valid mesh was found, or it would have clearly more elements than
/// `most`, and InputError, before meshing, if the edges alone ask for more than that.
SolidMesh generate_solid(const SolidPart& part, const SizingIn<3>& sizing, std::int64_t most, int degree,
                         MeshingLog* log = nullptr);

/// Faces meshed like that, over elements that join their points alone: good for a picture of the outside, in a fraction
/// of the time, and for nothing else. Throws as above.
SolidMesh generate_outside(const SolidPart& part, const SizingIn<3>& sizing, std::int64_t most);

/// How many elements the field asks for in the part; stops counting beyond `enough`.
double estimate_elements(const SolidPart& part, const SizeFieldIn<3>& sizes, double enough);

/// Throws InputError if the sizes ask for clearly more elements than the limit; otherwise their estimated number.
double check_element_limit(const SolidPart& part, const SizeFieldIn<3>& sizes, std::int64_t most_elements);

}  // namespace dotsift
