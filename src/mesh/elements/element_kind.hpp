#pragma once
// Element kinds: their corners, nodes, edges and sides. A new kind is one more row of the table.

#include <array>
#include <cstddef>
#include <cstdint>

namespace dotsift {

/// Each shape once linear and once quadratic. Reference coordinates: the unit triangle or tetrahedron with a corner at
/// the origin and one on each axis; the unit square or cube; the wedge over the unit triangle, of height 1; the pyramid
/// over the unit square with its tip at (0, 0, 1).
///
/// Node order: corners, of the plane anticlockwise, of solids those below first, both anticlockwise seen from above;
/// then for quadratic kinds the nodes in the middle of the edges, those in the middle of sides with four corners, and
/// the one in the middle of the square or cube.
enum class ElementKind : std::uint8_t {
    triangle3,
    triangle6,
    quadrilateral4,
    quadrilateral9,
    tetrahedron4,
    tetrahedron10,
    hexahedron8,
    hexahedron27,
    wedge6,
    wedge18,
    pyramid5,
    pyramid14
};
inline constexpr std::size_t element_kind_count = 12;

/// The most that an element of this dimension has.
template <int D>
inline constexpr std::size_t most_nodes = D == 2 ? 9 : 27;
template <int D>
inline constexpr std::size_t most_corners = D == 2 ? 4 : 8;
inline constexpr std::size_t most_element_nodes = most_nodes<2>, most_element_corners = most_corners<2>;
inline constexpr std::size_t most_side_nodes = 9, most_side_corners = 4;

/// A short list of local nodes.
template <std::size_t N>
struct LocalNodes {
    std::size_t count = 0;
    std::array<std::uint8_t, N> node{};
    constexpr void add(std::size_t n) { node[count++] = static_cast<std::uint8_t>(n); }
    constexpr std::size_t operator[](std::size_t i) const { return node[i]; }
    [[nodiscard]] constexpr std::size_t size() const { return count; }
    [[nodiscard]] constexpr const std::uint8_t* begin() const { return node.data(); }
    [[nodiscard]] constexpr const std::uint8_t* end() const { return node.data() + count; }
};

/// What a kind is made of. Sides are what two elements share: edges in the plane, faces in space.
struct KindTable {
    int dimension = 2, degree = 1;  ///< degree of the polynomials that it contains completely
    std::size_t corners = 0, nodes = 0, edges = 0, sides = 0;
    std::array<std::array<std::uint8_t, 2>, 12> edge{};  ///< their corners
    std::array<LocalNodes<most_side_nodes>, 6> side{};   ///< nodes: corners, seen from outside anticlockwise (of
                                                         ///< edges from start to end), then as of any element
    std::array<std::size_t, 6> side_corners{};
    std::array<LocalNodes<most_corners<3>>, 27> corners_of{};  ///< each node lies in the middle of these
};

const KindTable& table_of(ElementKind kind);

constexpr int dimension_of(ElementKind kind) {
    return kind <= ElementKind::quadrilateral9 ? 2 : 3;
}
/// Degree of the polynomials that the element contains completely.
constexpr int polynomial_degree(ElementKind kind) {
    return 1 + static_cast<int>(kind) % 2;
}
/// The kind of the same shape with this degree, 1 or 2.
constexpr ElementKind of_degree(ElementKind kind, int degree) {
    return static_cast<ElementKind>(static_cast<int>(kind) / 2 * 2 + degree - 1);
}
constexpr int corner_count(ElementKind kind) {
    constexpr std::array<int, element_kind_count / 2> corners{3, 4, 4, 8, 6, 5};
    return corners[static_cast<std::size_t>(kind) / 2];
}
constexpr int node_count(ElementKind kind) {
    constexpr std::array<int, element_kind_count / 2> quadratic{6, 9, 10, 27, 18, 14};
    return polynomial_degree(kind) == 1 ? corner_count(kind) : quadratic[static_cast<std::size_t>(kind) / 2];
}
constexpr int side_count(ElementKind kind) {
    constexpr std::array<int, element_kind_count / 2> sides{3, 4, 4, 6, 5, 5};
    return sides[static_cast<std::size_t>(kind) / 2];
}
/// The kind in the plane with this many corners and this polynomial degree (1 or 2).
constexpr ElementKind kind_of(int corners, int degree) {
    return of_degree(corners == 3 ? ElementKind::triangle3 : ElementKind::quadrilateral4, degree);
}
/// Of a solid: the kind of one of its sides, whose nodes lie in space.
inline ElementKind side_kind(ElementKind kind, int side) {
    const std::size_t corners = table_of(kind).side_corners[static_cast<std::size_t>(side)];
    return kind_of(static_cast<int>(corners), polynomial_degree(kind));
}
/// Local nodes of a side.
inline const LocalNodes<most_side_nodes>& side_nodes(ElementKind kind, int side) {
    return table_of(kind).side[static_cast<std::size_t>(side)];
}
/// The corners in whose middle a node lies; a corner's own is itself.
inline const LocalNodes<most_corners<3>>& corners_of_node(ElementKind kind, std::size_t node) {
    return table_of(kind).corners_of[node];
}

}  // namespace dotsift
