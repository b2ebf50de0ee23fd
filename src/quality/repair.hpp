#pragma once
// Local improvement of the elements that are below their limits.

#include <vector>

#include "quality/quality.hpp"

namespace dotsift {

struct RepairReport {
    std::size_t poor_before = 0, poor_after = 0;
    std::size_t moved = 0, swapped = 0;  ///< nodes moved, sides between two triangles turned
    std::vector<PoorElementIn<2>> left;  ///< what stays poor, with its cause; worst first
};

/// Improves poor elements: sides between two triangles of a region are turned, and nodes that lie on no boundary, no
/// named point and in no row of layers are moved to where the worst element round them is best, found by a search with
/// halved steps. Worst is the largest badness (see Limits) over all measures of shape, so what is improved is what is
/// judged.
/// No step makes the worst element it touches worse, or more elements poor. `wanted` (may be empty) is one size an
/// element, and is kept. `part` may be null: then no causes that lie in the part are told. Elements before
/// `first_element`, and their nodes, are left alone.
RepairReport repair(Mesh& mesh, const std::vector<double>& wanted, const std::vector<QualitySpec>& limits,
                    const Part* part, std::size_t first_element = 0);

}  // namespace dotsift
