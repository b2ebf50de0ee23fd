#pragma once
// Elements round a corner, ring by ring: the same in the plane and in space.

#include <algorithm>
#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "mesh/topology.hpp"

namespace dotsift {

/// What the patches of a mesh share: for each slot that is a corner, the elements that have it, all of one region.
class CornerElements {
  public:
    explicit CornerElements(const Topology& mesh);
    [[nodiscard]] const Topology& topology() const { return topology_; }
    /// Ascending; none where the slot is no corner.
    [[nodiscard]] std::span<const std::int32_t> of(std::int32_t slot) const {
        const auto s = static_cast<std::size_t>(slot);
        return {elements_.data() + first_[s], static_cast<std::size_t>(first_[s + 1] - first_[s])};
    }
    [[nodiscard]] std::span<const std::int32_t> corners_of(std::size_t element) const {
        return topology_.slots_of(element).first(static_cast<std::size_t>(corner_count(topology_.kinds[element])));
    }

  private:
    const Topology& topology_;
    std::vector<std::int64_t> first_;
    std::vector<std::int32_t> elements_;
};

/// Numbers that were met, from 0 on. A table of 2^bits places serves the sizes that patches have; more are searched one
/// by one.
template <int bits>
class MetNumbers {
  public:
    /// Begins with these, all different. The table is filled when more come, if any do.
    void begin(std::span<const std::int32_t> numbers) {
        all_.assign(numbers.begin(), numbers.end());
        table_filled_ = false;
    }
    /// Does nothing if it was met before.
    void add(std::int32_t number) {
        if (all_.size() >= table_.size() / 2) {
            if (std::find(all_.begin(), all_.end(), number) == all_.end()) all_.push_back(number);
            return;
        }
        if (!table_filled_) {
            table_filled_ = true;
            table_.fill(-1);
            for (const auto n : all_) table_[place_of(n)] = n;
        }
        auto& at = table_[place_of(number)];
        if (at == number) return;
        at = number;
        all_.push_back(number);
    }
    /// In the order in which they came.
    [[nodiscard]] const std::vector<std::int32_t>& all() const { return all_; }

  private:
    [[nodiscard]] std::uint32_t place_of(std::int32_t number) const {
        auto at = static_cast<std::uint32_t>(number) * 2654435769U >> (32 - bits);
        while (table_[at] >= 0 && table_[at] != number) at = (at + 1) % static_cast<std::uint32_t>(table_.size());
        return at;
    }

    std::vector<std::int32_t> all_;
    bool table_filled_ = false;
    std::array<std::int32_t, std::size_t{1} << bits> table_{};
};

/// Elements round one corner, with their slots. Made once for many corners, as it keeps its memory.
template <int bits>
class ElementPatch {
  public:
    explicit ElementPatch(const CornerElements& around) : around_(around) {}
    /// The elements that have the corner.
    void begin(std::int32_t corner) {
        elements_.begin(around_.of(corner));
        slots_.begin({});
        add_slots(0);
    }
    /// Adds the elements round every corner it has; false if there are no more.
    bool grow() {
        const std::size_t old_elements = elements().size(), old_slots = slots().size();
        for (std::size_t k = 0; k < old_slots; ++k)
            for (const auto e : around_.of(slots()[k])) elements_.add(e);
        add_slots(old_elements);
        return elements().size() > old_elements;
    }
    [[nodiscard]] const std::vector<std::int32_t>& elements() const { return elements_.all(); }
    [[nodiscard]] const std::vector<std::int32_t>& slots() const { return slots_.all(); }

  protected:
    /// Begins with slots that are known already.
    void begin(std::int32_t corner, std::span<const std::int32_t> slots) {
        elements_.begin(around_.of(corner));
        slots_.begin(slots);
    }

  private:
    void add_slots(std::size_t from) {
        for (std::size_t k = from; k < elements().size(); ++k)
            for (const auto s : around_.topology().slots_of(static_cast<std::size_t>(elements()[k]))) slots_.add(s);
    }

    const CornerElements& around_;
    MetNumbers<bits> elements_, slots_;
};

}  // namespace dotsift
