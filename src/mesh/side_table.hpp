#pragma once
// Who is beside whom: every side of a mesh once, with the elements on both hands. Corners alone tell sides apart, so
// that nothing here asks for a dimension.

#include <array>
#include <cstdint>
#include <vector>

namespace dotsift {

struct Topology;

/// A side of an element.
struct ElementSide {
    std::int32_t element = -1;  ///< -1: there is none
    std::int32_t side = 0;      ///< of the element
    [[nodiscard]] explicit operator bool() const { return element >= 0; }
};

/// Sides are numbered in the order in which elements, and their sides, first have them.
class SideTable {
  public:
    SideTable() = default;
    SideTable(const Topology& mesh, std::size_t nodes);

    [[nodiscard]] std::size_t count() const { return beside_.size(); }
    /// The number of an element's side; two elements that share a side have the same.
    [[nodiscard]] std::size_t of(std::size_t element, std::size_t side) const {
        return static_cast<std::size_t>(number_[static_cast<std::size_t>(first_[element]) + side]);
    }
    /// The elements on both hands of a side, the one with the lower number first; on the outline there is one.
    [[nodiscard]] const std::array<ElementSide, 2>& beside(std::size_t side) const { return beside_[side]; }
    /// The side as the element beyond it has it.
    [[nodiscard]] ElementSide beyond(std::size_t element, std::size_t side) const {
        const auto& both = beside(of(element, side));
        return both[both[0].element == static_cast<std::int32_t>(element) ? 1 : 0];
    }

  private:
    template <std::size_t N>
    void find(const Topology& mesh, std::size_t nodes);

    std::vector<std::int64_t> first_;   // where an element's sides begin in `number_`
    std::vector<std::int32_t> number_;  // of each element's sides
    std::vector<std::array<ElementSide, 2>> beside_;
};

}  // namespace dotsift
