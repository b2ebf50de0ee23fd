#pragma once
// The unit cube cut into solid elements of each kind.

#include <functional>

#include "mesh/mesh.hpp"

namespace dotsift::test {

/// `mixed`: layers of cubes, wedges, pyramids and tetrahedra, one after another along x; needs four cells each way.
enum class CubeCut { tetrahedra, hexahedra, wedges, pyramids, mixed };
inline constexpr CubeCut all_cuts[] = {CubeCut::tetrahedra, CubeCut::hexahedra, CubeCut::wedges, CubeCut::pyramids,
                                       CubeCut::mixed};

/// `cells` each way. Corners are moved by `place`; other nodes lie in the middle of theirs, or, `curved`, where `place`
/// moves their middle. Sides on the outline are in `boundary`, all of edge 0.
SolidMesh cut_cube(CubeCut cut, int cells, int degree, const std::function<Vec3(const Vec3&)>& place,
                   bool curved = false);

}  // namespace dotsift::test
