#pragma once
// What a mesh is made of, without its places: the same in the plane and in space, and compiled once.

#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "mesh/elements/element_kind.hpp"
#include "mesh/side_table.hpp"

namespace dotsift {

/// A side of an element that lies on the outline of the part, or between regions.
struct BoundarySide {
    std::array<int, 3> nodes{};  ///< in the plane: start, end, middle (-1 on linear elements); the material is on the
                                 ///< left. Of any side: Topology::side
    int element = 0;
    int side = 0;  ///< of the element
    int edge = 0;  ///< of the part; of a solid its face
    [[nodiscard]] std::size_t count() const { return nodes[2] < 0 ? 2 : 3; }
};

/// A point of the part that has a name.
struct MeshPoint {
    std::string name;
    int node = 0;
};

struct Topology {
    std::vector<ElementKind> kinds;  ///< of each element
    std::vector<std::int64_t>
        first;  ///< where an element's nodes begin in `connectivity`; one more entry than elements
    std::vector<std::int32_t> connectivity;
    std::vector<std::int32_t> region;  ///< of each element
    std::vector<std::int32_t> row;     ///< of layers, of each element, from 1 at the boundary; 0: none
    /// Where a field may jump between regions, a node has a value for each of its regions. Slot n, less than the number
    /// of nodes, is the value of node n in the first of its regions; further ones follow. Laid out like `connectivity`.
    std::vector<std::int32_t> slots;
    std::vector<std::int32_t> node_of_slot;
    SideTable sides;
    std::vector<BoundarySide> boundary;
    std::vector<std::string> boundary_names, region_names;
    std::vector<MeshPoint> points;
    std::vector<std::vector<int>> names_of_edge;  ///< for each edge of the part, indices into boundary_names; of a
                                                  ///< solid for each face

    [[nodiscard]] std::size_t element_count() const { return kinds.size(); }
    [[nodiscard]] std::span<const std::int32_t> element(std::size_t e) const {
        return {connectivity.data() + first[e], static_cast<std::size_t>(first[e + 1] - first[e])};
    }
    /// The slots of an element's nodes.
    [[nodiscard]] std::span<const std::int32_t> slots_of(std::size_t e) const {
        return {slots.data() + first[e], static_cast<std::size_t>(first[e + 1] - first[e])};
    }
};

/// 3 of solids, else 2: the largest of its kinds.
int dimension_of(const Topology& mesh);

/// What some patterns mean in a mesh, by the names of its entities: found once, asked often.
class Meant {
  public:
    Meant(const Topology& mesh, const std::vector<std::string>& patterns);
    /// A boundary side whose edge carries a name that fits one of the patterns.
    [[nodiscard]] bool side(const BoundarySide& side) const { return edge_[static_cast<std::size_t>(side.edge)] != 0; }
    /// An element whose region's name does.
    [[nodiscard]] bool element(std::size_t e) const { return region(static_cast<std::size_t>(mesh_.region[e])); }
    [[nodiscard]] bool region(std::size_t r) const { return region_[r] != 0; }
    [[nodiscard]] bool any_region() const;

  private:
    const Topology& mesh_;
    std::vector<char> edge_, region_;
};

/// Fills `slots` and `node_of_slot` from the regions.
void number_slots(Topology& mesh, std::size_t nodes);
/// Fills all that follows from the elements and their regions: the slots, and `sides`.
void connect(Topology& mesh, std::size_t nodes);

/// The slot of a node as an element has it.
std::int32_t slot_of(const Topology& mesh, std::size_t element, int node);

/// For each node the elements that have it: elements_of[first[n]] ... elements_of[first[n + 1] - 1], ascending.
struct NodeElements {
    std::vector<std::int64_t> first;
    std::vector<std::int32_t> elements;
    [[nodiscard]] std::span<const std::int32_t> of(std::size_t n) const {
        return {elements.data() + first[n], static_cast<std::size_t>(first[n + 1] - first[n])};
    }
};
NodeElements node_elements(const Topology& mesh, std::size_t nodes);

}  // namespace dotsift
