#pragma once
// Elements by their corners alone: what every way of meshing makes, before nodes are put on sides.

#include <array>
#include <cstdint>
#include <vector>

#include "base/vec.hpp"

namespace dotsift {

struct CornerMesh {
    struct Element {
        std::array<std::int32_t, 4> v{-1, -1, -1, -1};        ///< points, anticlockwise; v[3] is -1 for a triangle
        std::array<std::int32_t, 4> segment{-1, -1, -1, -1};  ///< of the division, on the side from v[i] to the next
        std::int32_t face = 0;                                ///< of the part
        std::int32_t row = 0;                                 ///< of layers, from 1 at the boundary; 0: none
        [[nodiscard]] std::size_t corners() const { return v[3] < 0 ? 3 : 4; }
    };
    /// A side whose middle is not halfway between its ends, though it lies on no segment.
    struct BentSide {
        std::int32_t a, b;
        Vec2 middle;
    };
    std::vector<Vec2> points;  ///< the division's points first
    std::vector<Element> elements;
    std::vector<BentSide> bent;
    bool ordered = false;  ///< elements that are near each other follow each other

    [[nodiscard]] std::array<Vec2, 4> corners_of(const Element& e) const {
        std::array<Vec2, 4> p{};
        for (std::size_t i = 0; i < e.corners(); ++i) p[i] = points[static_cast<std::size_t>(e.v[i])];
        return p;
    }

    /// Adds the elements of another mesh, whose first points and segments are known here by other numbers. An empty
    /// list means the same numbers: for points, of the first `same` ones.
    void append(const CornerMesh& piece, const std::vector<int>& known_points, std::size_t same,
                const std::vector<std::size_t>& known_segments);
};

}  // namespace dotsift
