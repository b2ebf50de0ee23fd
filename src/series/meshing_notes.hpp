#pragma once
// What was noticed while a mesh was made, in words.

#include <string>
#include <vector>

#include "mesh/plane/generate.hpp"
#include "quality/repair.hpp"
#include "series/prepare.hpp"
#include "study/study.hpp"

namespace dotsift {

/// A line for each try that led to no mesh.
std::vector<std::string> notes_on_tries(const MeshingLog& log, const std::string& length);
/// A line where edges of a solid's elements do not follow their face.
std::vector<std::string> notes_on_straightened(const MeshingLog& log);
/// The same for tries with other sizes and another part; if one led to a mesh, also what was changed in it. `study` is
/// that of the last try.
std::vector<std::string> notes_on_retries(const std::vector<FailedTry>& failed, const Study& study, bool made);
/// A line for each place where rows of layers are thinner than asked.
std::vector<std::string> notes_on_layers(const MeshingLog& log, const Study& study, const Part& part);
/// How many elements were improved, and a line for each of the first that stay poor.
std::vector<std::string> notes_on_repair(const RepairReport& repair);
/// All of them about one level.
std::vector<std::string> meshing_notes(const MeshingLog& log, const RepairReport& repair, const Study& study,
                                       const Part& part);

}  // namespace dotsift
