#pragma once
// Files of facets: STL (text and binary), PLY (text and binary), OFF and OBJ.

#include <filesystem>

#include "part/facets/facet_mesh.hpp"

namespace dotsift {

/// By its content: nothing; otherwise what it is, "STL", "PLY", "OFF" or "OBJ". Of text without a word at its beginning
/// the file's name decides.
const char* facet_format_of(const std::filesystem::path& file);

/// It begins as a STEP file does, or as the geometry library's own text.
bool begins_as_shapes(const std::filesystem::path& file);

/// As the file has them; faces of more corners are parted into triangles. Groups: the solids of an STL text, groups and
/// objects of OBJ. Throws InputError with the line or place in the file.
FacetMesh read_facets(const std::filesystem::path& file);

}  // namespace dotsift
