#pragma once
// The study held against its part, before anything is computed.

#include "part/build.hpp"
#include "part/part.hpp"
#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Notes every name that is on no boundary, every rigid motion that the supports leave, symmetry on curved
/// boundaries, points outside the part, regions without a material, and boundaries that are used by nothing.
void check_study(const Study& study, const Part& part, Problems& problems);

/// Boundary names of the part that nothing in the study refers to.
std::vector<std::string> unused_names(const Study& study, const Part& part);

/// Puts the positions of named points where supports and quantities refer to them by name.
void resolve_points(Study& study, const Part& part, Problems& problems);
/// The same of quantities of a solid.
void resolve_points(Study& study, const SolidPart& part, Problems& problems);

struct StudyAndPart {
    Study study;
    Part part;                         ///< of a solid the plane that it is made of
    std::optional<SolidPart> solid;    ///< of a solid study
    std::optional<Part> original;      ///< before the clean-up, if there was one
    std::vector<CleanupItem> cleanup;  ///< what it did
    std::vector<std::string> notes;    ///< what was read from drawings
};

/// `study` as it was read; what follows of opening a study.
StudyAndPart open_part(Study study, Problems& problems);

/// Reads a study, builds its part and checks the one against the other, as far as the faults allow: names are checked
/// even if some number elsewhere is wrong.
StudyAndPart open_study(const std::filesystem::path& path, const std::string& text, Problems& problems);

}  // namespace dotsift
