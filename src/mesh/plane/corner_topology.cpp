#include "mesh/plane/corner_topology.hpp"

#include <algorithm>

namespace dotsift {

namespace {

template <class Act>
void each_side(const CornerMesh& mesh, Act act) {
    for (std::size_t e = 0; e < mesh.elements.size(); ++e) {
        const auto& element = mesh.elements[e];
        const std::size_t n = element.corners();
        for (std::size_t s = 0; s < n; ++s) {
            const auto a = element.v[s], b = element.v[s + 1 == n ? 0 : s + 1];
            act(e * 4 + s, std::min(a, b), std::max(a, b));
        }
    }
}

}  // namespace

EdgeNumbers::EdgeNumbers(const CornerMesh& mesh) : edge_(mesh.elements.size() * 4, -1) {
    std::vector<std::int32_t> first(mesh.points.size() + 1, 0);
    each_side(mesh, [&](std::size_t, std::int32_t low, std::int32_t) { ++first[static_cast<std::size_t>(low) + 1]; });
    for (std::size_t p = 0; p < mesh.points.size(); ++p) first[p + 1] += first[p];
    // `other` holds the higher end of the edges found so far round each lower one, `number` what they are called.
    std::vector<std::int32_t> other(static_cast<std::size_t>(first.back())), number(other.size());
    std::vector<std::int32_t> last(first.begin(), first.end() - 1);
    each_side(mesh, [&](std::size_t side, std::int32_t low, std::int32_t high) {
        const auto l = static_cast<std::size_t>(low);
        for (auto k = first[l]; k < last[l]; ++k)
            if (other[static_cast<std::size_t>(k)] == high) {
                edge_[side] = number[static_cast<std::size_t>(k)];
                return;
            }
        const auto k = static_cast<std::size_t>(last[l]++);
        other[k] = high;
        edge_[side] = number[k] = count_++;
    });
}

ElementsRound::ElementsRound(const CornerMesh& mesh) : first_(mesh.points.size() + 1, 0) {
    for (const auto& e : mesh.elements)
        for (std::size_t i = 0; i < e.corners(); ++i) ++first_[static_cast<std::size_t>(e.v[i]) + 1];
    for (std::size_t p = 0; p < mesh.points.size(); ++p) first_[p + 1] += first_[p];
    elements_.resize(static_cast<std::size_t>(first_.back()));
    auto next = first_;
    for (std::size_t e = 0; e < mesh.elements.size(); ++e)
        for (std::size_t i = 0; i < mesh.elements[e].corners(); ++i)
            elements_[static_cast<std::size_t>(next[static_cast<std::size_t>(mesh.elements[e].v[i])]++)] =
                static_cast<std::int32_t>(e);
}

}  // namespace dotsift
