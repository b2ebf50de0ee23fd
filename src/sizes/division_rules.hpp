#pragma once
// A rule that divides edges into a number of pieces.

#include <filesystem>
#include <vector>

#include "part/solid/solid_part.hpp"
#include "sizes/sizing.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Adds the divisions that a rule asks for, and sources of the sizes of their pieces, so that the elements beside them
/// follow. Throws InputError with the rule's place if it contradicts another one, or says "finer at" what meets no end
/// of an edge.
template <int D>
void add_divisions(const PartIn<D>& part, const SizeSpec& spec, int index, const std::filesystem::path& study_file,
                   std::vector<EdgeDivision>& divisions, std::vector<SizeSourceIn<D>>& sources);

}  // namespace dotsift
