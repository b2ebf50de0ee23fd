#pragma once
// A mesh out of a VTU file (VTK XML unstructured grid): the ones that this program writes, and others of plane
// elements.

#include <filesystem>

#include "evidence/levels/vtu.hpp"
#include "mesh/mesh.hpp"

namespace dotsift {

struct MeshFile {
    Mesh mesh;
    std::vector<double> wanted_size;  ///< of each element, if the file has it
    std::vector<FileField> fields;    ///< if they were asked for; cell arrays become one of elements and one of sides
    std::size_t turned = 0;           ///< elements that ran clockwise
    std::size_t untold_sides = 0;     ///< of the outline and between regions, without a line in the file
    /// Nothing if there is no such field.
    [[nodiscard]] const FileField* field(const std::string& name, FileField::Of of) const;
};

/// Reads triangles of 3 or 6 and quadrilaterals of 4, 8 or 9 nodes (8 become 9), strips, pixels, and polygons of three
/// or four corners, in any plane of constant z; clockwise ones are turned. Lines become boundary sides, and
/// so do sides without a line that one element has, or two of different regions; points are passed over. Regions come
/// from cell arrays "region.NAME", boundaries from "boundary.NAME", points from point arrays "point.NAME" (1 where they
/// are); without them everything is one region "part". Arrays may be ASCII, base64 or appended (raw or base64), plain
/// or compressed by zlib or LZ4, of either byte order. Throws FileError if the file cannot be read, InputError with
/// what is wrong if it is no such file; nothing in a file makes it read or allocate beyond the file's own size times
/// the largest possible compression.
MeshFile read_vtu(const std::filesystem::path& file, bool with_fields = false);

}  // namespace dotsift
