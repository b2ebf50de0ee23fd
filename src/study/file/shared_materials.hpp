#pragma once
// Materials that stand in a file of their own, for many studies. Only the reader of study files uses this.

#include <functional>
#include <optional>
#include <string>

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Reads a material of its own; faults go where the section's context says.
using MaterialReader = std::function<void(const Section&, const std::string& name, Study&)>;

/// The table of a material that names a file by `from`: its own keys, and those of the file's material (the one of the
/// same name, or of the name `entry`) which it has not. Nothing, with the fault noted, if there is no such file or
/// material, or if the file's one is not sound: it has to be a whole material, with the units of its numbers, as
/// `read` reads it. Notes the file as one that the study needs.
std::optional<toml::table> with_shared(const Section& section, const std::string& name, const MaterialReader& read,
                                       Study& study);

}  // namespace dotsift
