#pragma once
// What must be true of every mesh, and its figures of merit; for tests and benchmarks.

#include <string>

#include "mesh/mesh.hpp"
#include "mesh/plane/layers.hpp"
#include "part/part.hpp"
#include "sizes/sizing.hpp"

namespace dotsift::test {

/// What is wrong with a mesh of a part: inverted elements, a wrong area, sides that are neither shared by two elements
/// nor on the outline, lost edges or points. Empty if nothing.
std::string fault_of(const Part& part, const Mesh& mesh);

struct MeshFigures {
    std::size_t elements = 0;
    double least_angle = 180, mean_quality = 0;    ///< degrees; mean ratio
    double edges = 0;                              ///< share of edges between 0.7 and 1.4 of the wanted length
    double quad_area = 0;                          ///< share of the area in quadrilaterals
    double worst_jacobian = 1, mean_jacobian = 0;  ///< scaled, of quadrilaterals
};

/// Not held against the mesh: angles in a corner of the part that is sharper than `sharp_corner` itself, as far as it
/// is narrower than an element.
MeshFigures figures_of(const Part& part, const Mesh& mesh, const SizeField& sizes);
inline constexpr double sharp_corner = 25;

/// Rows of layers with the same first height along every outer edge of the part, a quarter of the smallest size on it.
std::vector<EdgeLayers> layers_everywhere(const Part& part, const SizeField& sizes);

/// How the heights of first rows keep to what was asked.
struct LayerFigures {
    std::size_t nodes = 0;     ///< on top of first rows
    std::size_t reported = 0;  ///< of them, nearest to an edge that is reported as thinned
    double within = 1;         ///< share of the others that are within 5 % of the height
    double worst = 0;          ///< largest relative difference among the others
};
/// The height of a node is its distance from the nearest boundary side that has rows.
LayerFigures layer_figures_of(const Mesh& mesh, const std::vector<EdgeLayers>& rows,
                              const std::vector<ThinnedPlace>& thinned);
inline constexpr double least_layer_share = 0.99;

/// What is asked of every mesh in the set of outlines.
inline constexpr double least_angle = 25, least_mean_quality = 0.96, least_edges = 0.9, least_quad_area = 0.95,
                        least_quad_jacobian = 0.35, least_mean_jacobian = 0.85, least_jacobian_of_quads_alone = 0.2;
bool good_enough(const MeshFigures& figures, int shape);

}  // namespace dotsift::test
