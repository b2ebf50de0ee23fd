#pragma once
// Materials, supports, loads and what ties boundaries, of a study file.

#include "study/file/section.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Reads `conduction` and the materials first, from which the physics follows, then all that acts on the part. Faults
/// are noted in the context's problems.
void read_physics(const Section& top, Study& study);

/// `at`: a point, or the name of one, whose position is known when there is a part.
void read_place(const Section& s, std::optional<Vec2>& at, std::string& name, const char* key = "at");
/// The same in space, where the study is of a solid; else z is 0.
void read_place(const Section& s, std::optional<Vec3>& at, std::string& name, const char* key = "at");

}  // namespace dotsift
