#pragma once
// A mesh as plain arrays, with the names of the part's boundaries carried along.

#include "base/vec.hpp"
#include "mesh/elements/element.hpp"
#include "mesh/topology.hpp"

namespace dotsift {

/// A mesh in the plane or in space.
template <int D>
struct MeshIn : Topology {
    std::vector<Vec<D>> nodes;
    /// Normals of the part's true curve or surface at the nodes of each side of `boundary` (in the plane start, end,
    /// middle), its material behind them; empty: not known, as of a mesh from a file. They are not those of the chord.
    std::vector<std::array<Vec<D>, D == 2 ? 3 : most_side_nodes>> end_normals;

    /// The positions of an element's nodes.
    [[nodiscard]] std::array<Vec<D>, most_nodes<D>> positions(std::size_t e) const;
    /// The mean of its corners.
    [[nodiscard]] Vec<D> centre_of(std::size_t e) const;
    /// One of its nodes lies at a point, or nearer to it than `near`.
    [[nodiscard]] bool touches(std::size_t element, const Vec<D>& point, double near) const;
    /// Its area or volume.
    [[nodiscard]] double measure_of(std::size_t e) const;
    /// The length that is compared with the wanted size: the side of the equilateral triangle, square, regular
    /// tetrahedron or cube of its area or volume, and of wedges and pyramids the one of equal edges.
    [[nodiscard]] double size_of(std::size_t e) const;
    /// Area or volume of the whole.
    [[nodiscard]] double measure() const;
};
using Mesh = MeshIn<2>;
using SolidMesh = MeshIn<3>;

template <int D>
void connect(MeshIn<D>& mesh) {
    connect(mesh, mesh.nodes.size());
}
template <int D>
NodeElements node_elements(const MeshIn<D>& mesh) {
    return node_elements(mesh, mesh.nodes.size());
}

/// Gives nodes nearer to the axis of revolution, x = 0, than `reach` the radius 0: what curves and their intersections
/// leave at 1e-14 would be a radius to divide by.
void put_on_axis(Mesh& mesh, double reach);

struct MeshSummary {
    std::size_t nodes = 0, elements = 0, quadrilaterals = 0;
    double measure = 0;                          ///< area, of a solid volume
    double characteristic_size = 0;              ///< of an element of the mean measure: its square or cube root
    double worst_quality = 1, mean_quality = 1;  ///< mean ratio; rows of layers do not count
    double smallest_angle = 0;                   ///< degrees, over the corners; of a solid between sides
    Vec3 worst_position;
};
MeshSummary summarise(const Mesh& mesh);
MeshSummary summarise(const SolidMesh& mesh);

}  // namespace dotsift
