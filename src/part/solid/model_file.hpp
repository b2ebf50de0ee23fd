#pragma once
// Files of solids made elsewhere: STEP, the geometry library's own text, and facets. They are read and written by a
// program of its own, with limits, since damaged ones can crash the library.

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "part/solid/solid_part.hpp"

namespace dotsift {

struct ModelFile {
    std::vector<SolidPart> solids;   ///< one body each, of a region named as the file has it, or solid1, solid2, ...
    std::vector<std::string> notes;  ///< what was mended
    bool has_unit = true;
};

/// `unit`: metres in one of the file's, instead of what it says; `metres`: in one of the study's; `feature_angle`, in
/// radians: of files of facets (STL, PLY, OFF, OBJ), whose faces are parted at sharper edges (nothing: at 30 degrees);
/// that others have no use for one is noted. Throws InputError, and FileError if the program that reads cannot be
/// started.
ModelFile read_model(const std::filesystem::path& file, std::optional<double> unit, double metres,
                     std::optional<double> feature_angle = {});

/// As STEP, with the names of regions and faces; `metres` in one of the study's units. Throws FileError and InputError.
void write_step(const SolidPart& part, const std::filesystem::path& file, double metres);

}  // namespace dotsift
