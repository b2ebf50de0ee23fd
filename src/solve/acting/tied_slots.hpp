#pragma once
// Which slots of a node have one potential.

#include <vector>

#include "mesh/topology.hpp"
#include "solve/system/constraints.hpp"
#include "study/study.hpp"

namespace dotsift {

/// Whatever ties slots of one node has this source.
inline constexpr int tied_slots = -1;

/// Slots of a node carry the same potential unless a resistance stands between their regions: an equation of two terms
/// for each slot but the first of those that do.
void tie_slots(const Topology& mesh, std::size_t nodes, const std::vector<ResistanceSpec>& resistances,
               std::size_t cases, std::vector<ConstraintRow>& rows);

}  // namespace dotsift
