#pragma once
// Every face with the elements that are asked for in it. Faces share nothing but the divided edges between them, so any
// kinds fit together.

#include <map>

#include "mesh/plane/corner_mesh.hpp"
#include "mesh/plane/grid.hpp"
#include "mesh/plane/outline.hpp"
#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift {

class FaceMesher {
  public:
    /// Throws InputError if a grid is asked for where none is possible.
    FaceMesher(const Part& part, const MeshSpec& elements, std::size_t most_elements);

    /// The edges divided as the sizes and the kinds of elements ask.
    [[nodiscard]] Division divide(const SizeField& sizes, const std::vector<EdgeDivision>& given,
                                  const std::vector<EdgeEnd>& ends) const;

    /// Fills all faces. Triangles are made in `outline` itself. What is too coarse to be meshed is added to `coarse`.
    CornerMesh fill(Outline& outline, const SizeField& sizes, Coarse& coarse) const;

  private:
    const Part& part_;
    std::size_t most_;
    std::vector<ElementShape> shape_;  ///< of each face
    std::map<int, GridSides> grids_;   ///< by face
};

}  // namespace dotsift
