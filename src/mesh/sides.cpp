#include "mesh/sides.hpp"

#include <algorithm>
#include <cstdint>
#include <utility>

namespace dotsift {

std::vector<ElementSide> element_sides(const Mesh& mesh) {
    struct Half {
        std::uint64_t key;  ///< of its two corners
        std::int32_t element, side;
    };
    std::vector<Half> halves;
    halves.reserve(4 * mesh.element_count());
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto nodes = mesh.element(e);
        const int corners = corner_count(mesh.kinds[e]);
        for (int s = 0; s < corners; ++s) {
            const auto a = static_cast<std::uint32_t>(nodes[static_cast<std::size_t>(s)]),
                       b = static_cast<std::uint32_t>(nodes[static_cast<std::size_t>((s + 1) % corners)]);
            halves.push_back(
                {(static_cast<std::uint64_t>(std::min(a, b)) << 32) | std::max(a, b), static_cast<std::int32_t>(e), s});
        }
    }
    std::sort(halves.begin(), halves.end(),
              [](const Half& a, const Half& b) { return a.key != b.key ? a.key < b.key : a.element < b.element; });
    std::vector<ElementSide> out;
    out.reserve(halves.size() / 2 + 1);
    for (std::size_t k = 0; k < halves.size(); ++k) {
        ElementSide s;
        s.element = halves[k].element;
        s.side = halves[k].side;
        if (k + 1 < halves.size() && halves[k + 1].key == halves[k].key) {
            ++k;
            s.other = halves[k].element;
            s.other_side = halves[k].side;
        }
        out.push_back(s);
    }
    std::sort(out.begin(), out.end(), [](const ElementSide& a, const ElementSide& b) {
        return a.element != b.element ? a.element < b.element : a.side < b.side;
    });
    return out;
}

}  // namespace dotsift
