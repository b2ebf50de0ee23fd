#pragma once
// One of the solids that the geometry module gives back -> a part of one body.

#include <functional>
#include <string>

#include "part/kernel/solid_kernel.hpp"

namespace dotsift {

/// The faces that bound a cell, in the order in which they stand in the result, with no names and no region; its box is
/// left to the caller. `surface_of`: which of its surfaces a face lies on, either way round.
SolidPart taken_solid(const SolidKernelResult& made, int cell,
                      const std::function<const Surface&(const KernelFace&)>& surface_of);

/// What keeps a part of one body from being a solid; empty: nothing. It is closed, and beside places on its faces lie
/// its inside and its outside.
std::string fault_of(const SolidPart& part);

}  // namespace dotsift
