#pragma once
// What a field changed from one level to another.

#include <vector>

#include "series/level.hpp"
#include "study/field.hpp"

namespace dotsift {

/// At the slots of the later level's mesh, of the first load case. `wanted`: at which of them; empty: at all.
/// Components are carried over: between nodes a principal stress or a magnitude is not what those of the nodes say.
template <int D>
std::vector<double> change_of(Field field, const LevelFieldsIn<D>& before, const LevelFieldsIn<D>& now,
                              const std::vector<char>& wanted = {});

/// The slots of a solid's mesh that lie on its outside.
std::vector<char> outer_slots(const SolidMesh& mesh);

}  // namespace dotsift
