#include "mesh/side_table.hpp"

#include <algorithm>

#include "mesh/mesh.hpp"

namespace dotsift {

namespace {

/// The corners of a side, ascending; unused places are -1 and stand first.
using Corners = std::array<std::int32_t, 2>;

Corners corners_of(const Mesh& mesh, std::size_t e, std::size_t side) {
    const auto local = side_nodes(mesh.kinds[e], static_cast<int>(side));
    const auto nodes = mesh.element(e);
    Corners c{nodes[static_cast<std::size_t>(local[0])], nodes[static_cast<std::size_t>(local[1])]};
    if (c[0] > c[1]) std::swap(c[0], c[1]);
    return c;
}

std::size_t side_count(ElementKind kind) {
    return static_cast<std::size_t>(corner_count(kind));
}

}  // namespace

SideTable::SideTable(const Mesh& mesh) {
    const std::size_t elements = mesh.element_count();
    first_.resize(elements + 1, 0);
    for (std::size_t e = 0; e < elements; ++e)
        first_[e + 1] = first_[e] + static_cast<std::int64_t>(side_count(mesh.kinds[e]));
    number_.resize(static_cast<std::size_t>(first_.back()));
    // The sides found so far, in chains by their highest corner.
    std::vector<std::int32_t> last(mesh.nodes.size(), -1), before;
    std::vector<Corners> found;
    const std::size_t expected = number_.size() / 2 + number_.size() / 16;
    before.reserve(expected);
    found.reserve(expected);
    beside_.reserve(expected);
    for (std::size_t e = 0; e < elements; ++e)
        for (std::size_t s = 0; s < side_count(mesh.kinds[e]); ++s) {
            const Corners c = corners_of(mesh, e, s);
            const ElementSide own{static_cast<std::int32_t>(e), static_cast<std::int32_t>(s)};
            auto& chain = last[static_cast<std::size_t>(c.back())];
            std::int32_t k = chain;
            // A third element at a side, as only broken files have it, begins a side of its own.
            while (k >= 0 && !(found[static_cast<std::size_t>(k)] == c && !beside_[static_cast<std::size_t>(k)][1]))
                k = before[static_cast<std::size_t>(k)];
            if (k >= 0) {
                beside_[static_cast<std::size_t>(k)][1] = own;
            } else {
                k = static_cast<std::int32_t>(beside_.size());
                beside_.push_back({own, {}});
                found.push_back(c);
                before.push_back(chain);
                chain = k;
            }
            number_[static_cast<std::size_t>(first_[e]) + s] = k;
        }
}

}  // namespace dotsift
