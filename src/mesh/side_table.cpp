#include "mesh/side_table.hpp"

#include <algorithm>

#include "mesh/topology.hpp"

namespace dotsift {

namespace {

/// The corners of a side, ascending; unused places are -1 and stand first. In the plane there are two of them.
template <std::size_t N>
using Corners = std::array<std::int32_t, N>;

template <std::size_t N>
Corners<N> corners_of(const Topology& mesh, std::size_t e, std::size_t side) {
    const KindTable& table = table_of(mesh.kinds[e]);
    const auto nodes = mesh.element(e);
    Corners<N> c;
    c.fill(-1);
    for (std::size_t i = 0; i < table.side_corners[side]; ++i) c[i] = nodes[table.side[side][i]];
    std::sort(c.begin(), c.end());
    return c;
}

}  // namespace

SideTable::SideTable(const Topology& mesh, std::size_t nodes) {
    const std::size_t elements = mesh.element_count();
    first_.resize(elements + 1, 0);
    for (std::size_t e = 0; e < elements; ++e) first_[e + 1] = first_[e] + side_count(mesh.kinds[e]);
    number_.resize(static_cast<std::size_t>(first_.back()));
    if (dimension_of(mesh) == 2)
        find<2>(mesh, nodes);
    else
        find<most_side_corners>(mesh, nodes);
}

template <std::size_t N>
void SideTable::find(const Topology& mesh, std::size_t nodes) {
    // The sides found so far, in chains by their highest corner.
    std::vector<std::int32_t> last(nodes, -1), before;
    std::vector<Corners<N>> found;
    const std::size_t expected = number_.size() / 2 + number_.size() / 16;
    before.reserve(expected);
    found.reserve(expected);
    beside_.reserve(expected);
    for (std::size_t e = 0; e < mesh.element_count(); ++e)
        for (std::size_t s = 0; s < static_cast<std::size_t>(side_count(mesh.kinds[e])); ++s) {
            const auto c = corners_of<N>(mesh, e, s);
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
