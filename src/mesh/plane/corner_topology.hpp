#pragma once
// Who is beside whom in a corner mesh.

#include <span>
#include <vector>

#include "mesh/plane/corner_mesh.hpp"

namespace dotsift {

/// Every side of every element with the number of its edge; sides that two elements share have the same one.
class EdgeNumbers {
  public:
    explicit EdgeNumbers(const CornerMesh& mesh);
    [[nodiscard]] std::size_t of(std::size_t element, std::size_t side) const {
        return static_cast<std::size_t>(edge_[element * 4 + side]);
    }
    [[nodiscard]] std::size_t count() const { return static_cast<std::size_t>(count_); }

  private:
    std::vector<std::int32_t> edge_;
    std::int32_t count_ = 0;
};

/// The elements round each point, ascending.
class ElementsRound {
  public:
    explicit ElementsRound(const CornerMesh& mesh);
    [[nodiscard]] std::span<const std::int32_t> of(std::size_t point) const {
        return {elements_.data() + first_[point], static_cast<std::size_t>(first_[point + 1] - first_[point])};
    }

  private:
    std::vector<std::int32_t> first_, elements_;
};

}  // namespace dotsift
