#pragma once
// What passes between the core and the module that holds the geometry library, of solids.

#include <string>
#include <vector>

#include "part/solid/solid_part.hpp"

namespace dotsift {

/// A face or body of one of the given solids.
struct KernelSource {
    int solid = 0, item = 0;
    bool operator==(const KernelSource&) const = default;
};

/// A piece of one or more of the given faces (several where they lie on each other).
struct KernelFace {
    std::vector<KernelSource> sources;
    std::vector<std::vector<EdgeUse>> loops;  ///< with the face on their left, seen from where `normal` points to
    Vec3 at, normal;                          ///< a place on it, and the unit normal there
    int behind = -1, before = -1;             ///< cells behind and before that normal; -1: none
    Surface surface;                          ///< of changed solids; of those that were cut it is that of the sources
    bool made = false;                        ///< by a change: at an edge, or as a face of a wall
};

/// A piece of space between faces.
struct KernelCell {
    std::vector<KernelSource> bodies;  ///< in which it lies
};

struct SolidKernelResult {
    std::vector<Vec3> vertices;
    std::vector<SolidEdge> edges;
    std::vector<KernelFace> faces;
    std::vector<KernelCell> cells;
    std::string fault;  ///< empty if all went well
    int solid = -1;     ///< which of the given ones it is about; -1: all
};

/// Cuts solids where they meet: every piece of space that some faces bound becomes a cell. `centre` and `size` bring
/// them to a size of about one. Profiles of surfaces may be no closed curves and no chains.
using SolidKernel = void (*)(const std::vector<SolidPart>& solids, const Vec3& centre, double size,
                             SolidKernelResult& result);
inline constexpr const char* solid_kernel_symbol = "dotsift_solid_kernel";

/// What is done to a body.
struct KernelChange {
    enum class Kind { round, bevel, hollow, taper, remove };
    Kind kind = Kind::round;
    std::vector<int> edges;  ///< round, bevel
    std::vector<int> faces;  ///< hollow: those left open; taper: those that are inclined; remove: those that go
    double length = 0;       ///< radius, length of a bevel along both faces, thickness of the wall
    double angle = 0;        ///< taper: towards the inside, along the normal
    Vec3 at, normal;         ///< taper: the plane in which nothing moves
};

/// Of one body. Faces keep their sources where they are pieces of what was there, and are `made` otherwise.
using SolidChangeKernel = void (*)(const SolidPart& part, const KernelChange& change, const Vec3& centre, double size,
                                   SolidKernelResult& result);
inline constexpr const char* solid_change_symbol = "dotsift_solid_change";

/// Reads a file of the library's own text, of which a unit is so many of the study's, with its surfaces. Faces are in
/// the order of the file's, as far as they bound a solid once: `numbers` has theirs, from 1.
using ShapeFileReader = void (*)(const char* file, double unit, SolidKernelResult& result, std::vector<int>& numbers);
inline constexpr const char* shape_file_reader_symbol = "dotsift_read_shapes";
/// Writes one, as if a unit of the study were so many of the file's. `numbers`: of each face of the part in the file.
using ShapeFileWriter = void (*)(const SolidPart& part, double unit, const char* file, std::vector<int>& numbers,
                                 std::string& fault);
inline constexpr const char* shape_file_writer_symbol = "dotsift_write_shapes";

}  // namespace dotsift
