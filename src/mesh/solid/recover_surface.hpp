#pragma once
// Triangles of the surface that tetrahedra of its points lack, brought into them.

#include "mesh/solid/surface_mesh.hpp"
#include "mesh/solid/tetrahedralisation.hpp"

namespace dotsift {

/// Exchanges tetrahedra whose edges and sides pass through missing edges and triangles of the surface, until those are
/// there or nothing more can be done without new points (George, Hecht & Saltel 1991, Comput. Methods Appl. Mech. Eng.
/// 92). What is there stays. `vertex`: of each point of the surface. The tetrahedra stay upright, but are no longer
/// Delaunay there; walls are not known afterwards.
void recover_surface(const SurfaceMesh& surface, const std::vector<std::int32_t>& vertex, Tetrahedralisation& mesh);

}  // namespace dotsift
