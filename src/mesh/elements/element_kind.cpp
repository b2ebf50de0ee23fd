#include "mesh/elements/element_kind.hpp"

#include <initializer_list>

namespace dotsift {

namespace {

using List = std::initializer_list<std::uint8_t>;

/// A shape by its edges and, of solids, its faces.
constexpr std::array<KindTable, 2> both_degrees(int dimension, std::size_t corners,
                                                std::initializer_list<std::array<std::uint8_t, 2>> edges,
                                                std::initializer_list<List> faces) {
    std::array<KindTable, 2> out{};
    for (std::size_t d = 0; d < 2; ++d) {
        KindTable& t = out[d];
        t.dimension = dimension;
        t.degree = static_cast<int>(d) + 1;
        t.corners = t.nodes = corners;
        for (std::size_t c = 0; c < corners; ++c) t.corners_of[c].add(c);
        const auto add_node = [&](const auto& middle_of) {
            for (const auto c : middle_of) t.corners_of[t.nodes].add(c);
            return t.nodes++;
        };
        std::array<std::size_t, 12> middle{};
        for (const auto& e : edges) {
            if (d == 1) middle[t.edges] = add_node(e);
            t.edge[t.edges++] = e;
        }
        const auto middle_between = [&](std::size_t a, std::size_t b) {
            for (std::size_t e = 0; e < t.edges; ++e)
                if ((t.edge[e][0] == a && t.edge[e][1] == b) || (t.edge[e][0] == b && t.edge[e][1] == a))
                    return middle[e];
            return t.nodes;
        };
        const auto add_side = [&](const auto& side) {
            auto& nodes = t.side[t.sides];
            for (const auto c : side) nodes.add(c);
            const std::size_t count = t.side_corners[t.sides] = nodes.count;
            ++t.sides;
            if (d == 0) return;
            for (std::size_t c = 0; c < (count == 2 ? 1 : count); ++c)
                nodes.add(middle_between(nodes[c], nodes[(c + 1) % count]));
            if (count == 4) nodes.add(add_node(side));
        };
        if (dimension == 2)
            for (const auto& e : edges) add_side(e);
        for (const auto& f : faces) add_side(f);
        if (d == 1 && corners == (dimension == 2 ? 4U : 8U)) {  // the square's or the cube's own middle
            for (std::size_t c = 0; c < corners; ++c) t.corners_of[t.nodes].add(c);
            ++t.nodes;
        }
    }
    return out;
}

constexpr auto triangles = both_degrees(2, 3, {{0, 1}, {1, 2}, {2, 0}}, {});
constexpr auto quadrilaterals = both_degrees(2, 4, {{0, 1}, {1, 2}, {2, 3}, {3, 0}}, {});
constexpr auto tetrahedra =
    both_degrees(3, 4, {{0, 1}, {1, 2}, {2, 0}, {0, 3}, {1, 3}, {2, 3}}, {{0, 1, 3}, {1, 2, 3}, {2, 0, 3}, {0, 2, 1}});
constexpr auto hexahedra =
    both_degrees(3, 8, {{0, 1}, {1, 2}, {2, 3}, {3, 0}, {4, 5}, {5, 6}, {6, 7}, {7, 4}, {0, 4}, {1, 5}, {2, 6}, {3, 7}},
                 {{0, 4, 7, 3}, {1, 2, 6, 5}, {0, 1, 5, 4}, {3, 7, 6, 2}, {0, 3, 2, 1}, {4, 5, 6, 7}});
constexpr auto wedges = both_degrees(3, 6, {{0, 1}, {1, 2}, {2, 0}, {3, 4}, {4, 5}, {5, 3}, {0, 3}, {1, 4}, {2, 5}},
                                     {{0, 2, 1}, {3, 4, 5}, {0, 1, 4, 3}, {1, 2, 5, 4}, {2, 0, 3, 5}});
constexpr auto pyramids = both_degrees(3, 5, {{0, 1}, {1, 2}, {2, 3}, {3, 0}, {0, 4}, {1, 4}, {2, 4}, {3, 4}},
                                       {{0, 3, 2, 1}, {0, 1, 4}, {1, 2, 4}, {2, 3, 4}, {3, 0, 4}});

constexpr std::array<KindTable, element_kind_count> tables{
    triangles[0], triangles[1], quadrilaterals[0], quadrilaterals[1], tetrahedra[0], tetrahedra[1],
    hexahedra[0], hexahedra[1], wedges[0],         wedges[1],         pyramids[0],   pyramids[1]};

constexpr bool as_counted() {
    for (std::size_t k = 0; k < element_kind_count; ++k) {
        const auto kind = static_cast<ElementKind>(k);
        if (tables[k].nodes != static_cast<std::size_t>(node_count(kind)) ||
            tables[k].corners != static_cast<std::size_t>(corner_count(kind)) ||
            tables[k].sides != static_cast<std::size_t>(side_count(kind)) ||
            tables[k].dimension != dimension_of(kind) || tables[k].degree != polynomial_degree(kind))
            return false;
    }
    return true;
}
static_assert(as_counted());

}  // namespace

const KindTable& table_of(ElementKind kind) {
    return tables[static_cast<std::size_t>(kind)];
}

}  // namespace dotsift
