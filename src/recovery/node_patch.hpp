#pragma once
// The elements round a node that a recovered field is fitted on.

#include <array>
#include <span>
#include <vector>

#include "mesh/mesh.hpp"

namespace dotsift {

/// What the patches of a mesh share: for each slot that is a corner, the elements that have it, all of one region, and
/// the size of each element.
class CornerElements {
  public:
    explicit CornerElements(const Mesh& mesh);
    [[nodiscard]] const Mesh& mesh() const { return mesh_; }
    /// Ascending; none where the slot is no corner.
    [[nodiscard]] std::span<const std::int32_t> of(std::int32_t slot) const {
        const auto s = static_cast<std::size_t>(slot);
        return {elements_.data() + first_[s], static_cast<std::size_t>(first_[s + 1] - first_[s])};
    }
    [[nodiscard]] std::span<const std::int32_t> corners_of(std::size_t element) const {
        return mesh_.slots_of(element).first(static_cast<std::size_t>(corner_count(mesh_.kinds[element])));
    }
    [[nodiscard]] double size_of(std::int32_t element) const { return sizes_[static_cast<std::size_t>(element)]; }

  private:
    const Mesh& mesh_;
    std::vector<std::int32_t> first_, elements_;
    std::vector<double> sizes_;
};

/// Numbers that were met, from 0 on. A small table serves the sizes that patches have; more are searched one by one.
class MetNumbers {
  public:
    /// Begins with these, all different. The table is filled when more come, if any do.
    void begin(std::span<const std::int32_t> numbers);
    /// Does nothing if it was met before.
    void add(std::int32_t number);
    /// In the order in which they came.
    [[nodiscard]] const std::vector<std::int32_t>& all() const { return all_; }

  private:
    [[nodiscard]] std::uint32_t place_of(std::int32_t number) const;

    std::vector<std::int32_t> all_;
    bool table_filled_ = false;
    std::array<std::int32_t, 256> table_{};
};

/// Elements round one corner, ring by ring, with their slots. Made once for many corners, as it keeps its memory.
class NodePatch {
  public:
    explicit NodePatch(const CornerElements& around) : around_(around) {}
    /// The elements that have the corner.
    void begin(std::int32_t corner);
    /// Adds the elements round every corner it has; false if there are no more.
    bool grow();
    [[nodiscard]] const std::vector<std::int32_t>& elements() const { return elements_.all(); }
    [[nodiscard]] const std::vector<std::int32_t>& slots() const { return slots_.all(); }
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
    void add_slots(std::size_t from);

    const CornerElements& around_;
    std::int32_t corner_ = 0;
    std::vector<Beside> beside_;  ///< of each of the first elements
    bool closed_ = false;
    std::vector<std::int32_t> ring_;
    MetNumbers elements_, slots_;
};

}  // namespace dotsift
