#pragma once
// Files of solids made elsewhere: STEP, and the geometry library's own text. They are read and written by a program of
// its own, with limits, since damaged ones can crash the library.

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

/// `unit`: metres in one of the file's, instead of what it says; `metres`: in one of the study's. Throws InputError,
/// and FileError if the program that reads cannot be started.
ModelFile read_model(const std::filesystem::path& file, std::optional<double> unit, double metres);

/// As STEP, with the names of regions and faces; `metres` in one of the study's units. Throws FileError and InputError.
void write_step(const SolidPart& part, const std::filesystem::path& file, double metres);

}  // namespace dotsift
