#pragma once
// The outside of a mesh of solids as a file of facets.

#include <string>

#include "mesh/mesh.hpp"

namespace dotsift {

struct FacetText {
    std::string text;       ///< STL, as text: a solid for each set of names
    std::size_t count = 0;  ///< of facets
    double deviation = 0;   ///< from the true faces, in the middle of facets and of their sides, as elements know them
};

/// `mesh`: tetrahedra with 10 nodes. Facets look out of the solid; those between regions are left out.
FacetText facets_of(const SolidMesh& mesh);

}  // namespace dotsift
