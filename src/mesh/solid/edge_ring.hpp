#pragma once
// What can take the place of the tetrahedra round an edge.

#include "mesh/solid/body_mesh.hpp"

namespace dotsift {

/// Looks for the tetrahedra without the edge from corner a to corner b of t that fill the same space and whose worst
/// quality is largest: two for each of the best triangles between the points round it (Klincsek 1980, Ann. Discrete
/// Math. 9).
class EdgeRing {
  public:
    /// False if walls stop the walk round the edge, there are too many elements round it, or none of quality above
    /// `above` (and above what is there now, with `better`) would do.
    bool find(const BodyMesh& mesh, std::int32_t t, std::size_t a, std::size_t b, double above, bool better);
    [[nodiscard]] const std::vector<std::int32_t>& old() const { return round_; }
    [[nodiscard]] const std::vector<std::array<std::int32_t, 4>>& now() const { return now_; }

  private:
    std::vector<std::int32_t> round_, ring_;
    std::vector<std::array<std::int32_t, 4>> now_;
};

}  // namespace dotsift
