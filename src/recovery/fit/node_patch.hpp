#pragma once
// The elements round a node that a recovered field is fitted on.

#include <vector>

#include "mesh/mesh.hpp"
#include "recovery/fit/element_patch.hpp"

namespace dotsift {

/// With the size of each element.
class SizedCornerElements : public CornerElements {
  public:
    explicit SizedCornerElements(const Mesh& mesh);
    [[nodiscard]] const Mesh& mesh() const { return mesh_; }
    [[nodiscard]] double size_of(std::int32_t element) const { return sizes_[static_cast<std::size_t>(element)]; }

  private:
    const Mesh& mesh_;
    std::vector<double> sizes_;
};

/// A patch of the plane, where elements lie round a corner one after the other.
class NodePatch : public ElementPatch<8> {
  public:
    explicit NodePatch(const SizedCornerElements& around) : ElementPatch(around), around_(around) {}
    /// The elements that have the corner.
    void begin(std::int32_t corner);
    // Of the elements that have the corner:
    [[nodiscard]] double mean_size() const;
    [[nodiscard]] bool all_triangles() const;
    /// They go all the way round it, each beside the next.
    [[nodiscard]] bool closed() const { return closed_; }
    /// The sum of their angles there.
    [[nodiscard]] double angle() const;

  private:
    /// The corners before and after this one in an element.
    struct Beside {
        std::int32_t before, after;
    };
    /// The slots of elements that go all the way round: what each shares with the one before it is left to that one.
    const std::vector<std::int32_t>& ring();

    const SizedCornerElements& around_;
    std::int32_t corner_ = 0;
    std::vector<Beside> beside_;  ///< of each of the first elements
    bool closed_ = false;
    std::vector<std::int32_t> ring_;
};

}  // namespace dotsift
