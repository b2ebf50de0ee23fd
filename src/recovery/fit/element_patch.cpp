#include "recovery/fit/element_patch.hpp"

namespace dotsift {

CornerElements::CornerElements(const Topology& mesh) : topology_(mesh), first_(mesh.node_of_slot.size() + 1, 0) {
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto s : corners_of(e)) ++first_[static_cast<std::size_t>(s) + 1];
    for (std::size_t s = 1; s < first_.size(); ++s) first_[s] += first_[s - 1];
    elements_.resize(static_cast<std::size_t>(first_.back()));
    auto next = first_;
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (const auto s : corners_of(e))
            elements_[static_cast<std::size_t>(next[static_cast<std::size_t>(s)]++)] = static_cast<std::int32_t>(e);
}

}  // namespace dotsift
