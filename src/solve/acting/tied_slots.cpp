#include "solve/acting/tied_slots.hpp"

#include <algorithm>
#include <numeric>

#include "mesh/side_views.hpp"
#include "solve/acting/side_measure.hpp"

namespace dotsift {

void tie_slots(const Topology& mesh, std::size_t nodes, const std::vector<ResistanceSpec>& resistances,
               std::size_t cases, std::vector<ConstraintRow>& rows) {
    const std::size_t slots = mesh.node_of_slot.size();
    if (slots == nodes) return;
    std::vector<std::int32_t> joined(slots);
    std::iota(joined.begin(), joined.end(), 0);
    const auto root = [&](std::int32_t s) {
        while (joined[static_cast<std::size_t>(s)] != s) s = joined[static_cast<std::size_t>(s)];
        return s;
    };
    const auto join = [&](std::int32_t a, std::int32_t b) {
        a = root(a);
        b = root(b);
        joined[static_cast<std::size_t>(std::max(a, b))] = std::min(a, b);
    };
    std::vector<char> resisted(nodes, 0);
    std::vector<Meant> resisting;
    resisting.reserve(resistances.size());
    for (const auto& r : resistances) resisting.emplace_back(mesh, r.on);
    for (const auto& side : mesh.boundary) {
        const ElementSide far = beyond(mesh, side);
        if (!far) continue;
        const bool resists =
            std::any_of(resisting.begin(), resisting.end(), [&](const Meant& r) { return r.side(side); });
        for (std::size_t i = 0; i < count_on_side(mesh, side); ++i) {
            const std::int32_t node = number_on_side(mesh, mesh.connectivity, side.element, side.side, i);
            if (resists)
                resisted[static_cast<std::size_t>(node)] = 1;
            else
                join(number_on_side(mesh, mesh.slots, side.element, side.side, i),
                     slot_of(mesh, static_cast<std::size_t>(far.element), node));
        }
    }
    for (std::size_t s = nodes; s < slots; ++s)
        if (!resisted[static_cast<std::size_t>(mesh.node_of_slot[s])])
            join(static_cast<std::int32_t>(s), mesh.node_of_slot[s]);
    for (std::size_t s = 0; s < slots; ++s) {
        const auto r = root(static_cast<std::int32_t>(s));
        if (r != static_cast<std::int32_t>(s))
            rows.push_back(
                {{{static_cast<std::int32_t>(s), 1.0}, {r, -1.0}}, std::vector<double>(cases, 0.0), tied_slots});
    }
}

}  // namespace dotsift
