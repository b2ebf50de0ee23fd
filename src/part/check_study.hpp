#pragma once
// The study held against its part, before anything is computed.

#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Whether a point lies inside the part (even-odd rule, arcs followed by chords of 1/1024 turn).
bool inside_part(const Part& part, const Vec2& p);

/// Notes every name that is on no boundary, every rigid motion that the supports leave, symmetry on curved
/// boundaries, points outside the part, and boundaries that are used by nothing.
void check_study(const Study& study, const Part& part, Problems& problems);

struct StudyAndPart {
    Study study;
    Part part;
};

/// Reads a study, builds its part and checks the one against the other, as far as the faults allow: names are checked
/// even if some number elsewhere is wrong.
StudyAndPart open_study(const std::filesystem::path& path, const std::string& text, Problems& problems);

}  // namespace dotsift
