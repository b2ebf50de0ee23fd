#pragma once
// Named points of a solid, and names for its edges.

#include <string>
#include <vector>

#include "part/solid/solid_part.hpp"
#include "study/study.hpp"

namespace dotsift {

struct MarkedPoint {
    std::string name;
    Vec3 at;
    Where where;
};

/// Makes each a vertex of the part that meshes keep: one that is there, a new one on an edge, which is parted there,
/// on a face, or inside a body. A point that lies outside goes into `problems`.
void mark_points(const std::vector<MarkedPoint>& points, SolidPart& part, Problems& problems);

/// Names the edges at which faces of two names meet. A name without an edge goes into `problems`.
void name_edges(const std::vector<BetweenSpec>& edges, SolidPart& part, Problems& problems);

}  // namespace dotsift
