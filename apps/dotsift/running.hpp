#pragma once
// A study run into a directory, for every command that runs studies.

#include "console.hpp"
#include "evidence/output.hpp"

namespace dotsift::app {

/// Runs every series and writes everything; levels as soon as they are done. The output must have begun. Where meshing
/// fails, the place is drawn. `prepared.opened` must be the study that the output was made with.
StudyResult run_into(Prepared& prepared, Output& output, bool quiet);

/// What --replace and --resume say of earlier results. Throws InputError if both are given.
Earlier earlier_of(const cxxopts::ParseResult& given);

}  // namespace dotsift::app
