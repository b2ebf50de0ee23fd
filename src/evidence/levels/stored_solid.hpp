#pragma once
// A level of a solid as it was written.

#include <filesystem>

#include "part/solid/solid_part.hpp"
#include "series/level.hpp"

namespace dotsift {

/// Bit for bit what was written. Throws VtuFault and what the JSON library throws if the files are not such a level.
Level read_solid_level(const std::filesystem::path& folder, const Study& study, const SolidPart& part);

}  // namespace dotsift
