#pragma once
// What in the part makes elements poor.

#include <string>
#include <vector>

#include "part/narrow.hpp"
#include "part/solid/edge_wedges.hpp"
#include "quality/quality.hpp"

namespace dotsift {

/// `of`: the cause in a few words, as far as it can be seen; may be empty. The part may be null.
template <int D>
class CausesIn;

template <>
class CausesIn<2> {
  public:
    CausesIn(const Mesh& mesh, const Part* part);
    [[nodiscard]] std::string of(std::size_t element, Criterion measure) const;
    /// The elements across every narrow place of the part.
    [[nodiscard]] std::vector<AcrossCount> counted_across() const;

  private:
    const Mesh& mesh_;
    const Part* part_;
    std::vector<double> angles_;
    std::vector<NarrowPlace> narrow_;
};

template <>
class CausesIn<3> {
  public:
    CausesIn(const SolidMesh& mesh, const SolidPart* part);
    [[nodiscard]] std::string of(std::size_t element, Criterion measure) const;

  private:
    const SolidMesh& mesh_;
    const SolidPart* part_;
    std::vector<double> angles_;              ///< of the material at each edge, at its sharpest; degrees
    std::vector<std::vector<int>> faces_at_;  ///< of each node: those of the part on which it lies
    std::vector<std::vector<char>> meet_;     ///< of each two faces: they share a vertex
    std::vector<double> widths_;              ///< of each face, as a strip of its area and its edges' length has it
};

}  // namespace dotsift
