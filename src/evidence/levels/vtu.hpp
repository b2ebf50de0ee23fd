#pragma once
// A level as one VTU file (VTK XML unstructured grid, appended raw data, zlib), readable by any viewer of that format.

#include <string>

#include "part/part.hpp"
#include "series/level.hpp"

namespace dotsift {

/// Cells: the elements, then the boundary sides. Point data: displacement, stress_recovered (xx, yy, zz, xy, yz, xz),
/// von_mises, potential, flux_recovered; with several load cases each with .CASE after its name. Cell data: stress and
/// flux (the element's own, at its centre), error (share of the squared energy-norm error,
/// square root), wanted_size, size, region (-1 on boundary sides), layer_row,
/// quality.MEASURE (0 where it means nothing), and for every name an array that is 1 where it
/// belongs: region.NAME and boundary.NAME on cells, point.NAME on points; error.QUANTITY, what each element contributes
/// to the error of a quantity with a dual problem; edge, of the part, on boundary sides. Field data: what else a level
/// needs to be gone on from (values on the further sides of nodes between regions, projected volume strains).
std::string level_vtu(const Study& study, const Level& level);
/// What stands after the names of a case's arrays.
std::string case_suffix(const std::string& load_case, std::size_t cases);

/// An array of a mesh file that is not part of its mesh.
struct FileField {
    enum class Of { nodes, elements, sides, whole };
    std::string name;
    Of of = Of::nodes;
    std::size_t components = 1;
    std::vector<double> values;
};

/// A field of nodes or elements of `from`, on `to`, which has the same regions: of nodes linear or quadratic between
/// them and held between their values, of elements that of the element under each centre.
FileField carried(const FileField& field, const Mesh& from, const Mesh& to);

/// The mesh alone, with sizes, region and boundaries, and further fields of its nodes and elements.
std::string mesh_vtu(const Mesh& mesh, const std::vector<double>& wanted_size,
                     const std::vector<FileField>& fields = {});
std::string mesh_vtu(const SolidMesh& mesh, const std::vector<double>& wanted_size);

}  // namespace dotsift
