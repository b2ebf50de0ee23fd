#pragma once
// A piece of a mesh made anew, all the rest as it was.

#include <vector>

#include "mesh/mesh.hpp"
#include "part/part.hpp"
#include "sizes/size_field.hpp"
#include "study/study.hpp"

namespace dotsift {

struct RemeshCounts {
    std::vector<std::int32_t> kept;  ///< of the old mesh: its elements that are the first of the new one
    std::size_t kept_nodes = 0, new_nodes = 0, removed_nodes = 0;
    std::size_t kept_elements = 0, new_elements = 0, removed_elements = 0;
};

/// The elements of zones, and those round them that are more than half as large again as the zones want there: beside
/// elements that stay so large, no others could have the size that is wanted. `with` are the sizes with the zones',
/// `without` those that hold anyway.
std::vector<char> blended_zones(const Mesh& old, std::vector<char> zones, const SizeField& with,
                                const SizeField& without);

/// Makes the elements of `old` whose flag is set anew with the sizes of `field`. Everything else stays node for node:
/// kept nodes and elements come first and in their old order. Boundaries, lines between regions and named points stay
/// where they are; a boundary is divided anew where the elements on both its sides are. Rows of layers stay. The new
/// elements are triangles in regions of triangles and mostly quadrilaterals in all others of the old ones' order. Next
/// to kept elements the size is that of their sides, and grows or falls from there, the latter within an element or
/// two.
///
/// `old` may come from a file: its boundary sides are found on the part's edges by their place, and so are regions and
/// the sides between them where the file does not tell them. Throws InputError if boundary sides lie on no edge, or
/// regions have other names; MeshError if the hole cannot be filled.
Mesh remesh(const Part& part, const Mesh& old, const std::vector<char>& anew, const SizeField& field,
            const MeshSpec& elements, std::int64_t most_elements, RemeshCounts& counts);

}  // namespace dotsift
