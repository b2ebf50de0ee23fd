#pragma once
// A boundary seen from the elements beside it: one on the outline, two where material lies on both sides.

#include <string>
#include <vector>

#include "mesh/mesh.hpp"

namespace dotsift {

/// A side of a boundary as one of its elements has it.
struct SideView {
    std::size_t boundary = 0;  ///< index into Topology::boundary
    std::size_t element = 0;
    int side = 0;         ///< of the element
    bool forward = true;  ///< runs as the boundary does
    double share = 1;     ///< one half where both elements count
    /// Where the share t of the boundary's side lies in the element; in the plane.
    [[nodiscard]] Vec2 at(const Topology& mesh, double t) const {
        return reference_on_side(mesh.kinds[element], side, forward ? t : 1 - t);
    }
};

/// Sides of boundaries whose name fits `on`, seen from every element beside them, or only from those in regions that
/// fit `inside`, if it names any.
std::vector<SideView> side_views(const Topology& mesh, const std::vector<std::string>& on,
                                 const std::vector<std::string>& inside);

/// The side of the element beyond a boundary's side; none where there is no material.
inline ElementSide beyond(const Topology& mesh, const BoundarySide& side) {
    return mesh.sides.beyond(static_cast<std::size_t>(side.element), static_cast<std::size_t>(side.side));
}

}  // namespace dotsift
