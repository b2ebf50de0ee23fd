#pragma once
// Solids as the geometry library has them. Only the module's own files include this.

#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Solid.hxx>
#include <string>
#include <vector>

#include "part/kernel/library_curves.hpp"
#include "part/solid/solid_part.hpp"

namespace dotsift {

struct LibrarySolid {
    std::vector<TopoDS_Edge> edges;    ///< of each edge of the part
    std::vector<TopoDS_Face> faces;    ///< of each face of the part; bodies share them
    std::vector<TopoDS_Solid> bodies;  ///< of each body
    std::string fault;                 ///< empty if all went well
};

LibrarySolid to_library(const SolidPart& part, const LibraryScale& scale);

}  // namespace dotsift
