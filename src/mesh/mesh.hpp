#pragma once
// A mesh as plain arrays, with the names of the part's boundaries carried along.

#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "base/vec.hpp"
#include "mesh/element.hpp"
#include "mesh/side_table.hpp"

namespace dotsift {

/// A side of an element that lies on the outline of the part.
struct BoundarySide {
    std::array<int, 3> nodes{};  ///< start, end, middle (-1 on linear elements); the material is on the left
    int element = 0;
    int side = 0;  ///< of the element
    int edge = 0;  ///< of the part
    [[nodiscard]] std::size_t count() const { return nodes[2] < 0 ? 2 : 3; }
};

/// A point of the part that has a name.
struct MeshPoint {
    std::string name;
    int node = 0;
};

struct Mesh {
    std::vector<Vec2> nodes;
    std::vector<ElementKind> kinds;  ///< of each element
    std::vector<std::int64_t>
        first;  ///< where an element's nodes begin in `connectivity`; one more entry than elements
    std::vector<std::int32_t> connectivity;
    std::vector<std::int32_t> region;  ///< of each element
    std::vector<std::int32_t> row;     ///< of layers, of each element, from 1 at the boundary; 0: none
    /// Where a field may jump between regions, a node has a value for each of its regions. Slot n < nodes.size() is the
    /// value of node n in the first of its regions; further ones follow. Laid out like `connectivity`.
    std::vector<std::int32_t> slots;
    std::vector<std::int32_t> node_of_slot;
    SideTable sides;
    std::vector<BoundarySide> boundary;
    /// Normals of the part's curve at both ends and the middle of each side of `boundary`, its material behind them;
    /// empty: not known, as of a mesh from a file. They are those of the curve, not of the chord.
    std::vector<std::array<Vec2, 3>> end_normals;
    std::vector<std::string> boundary_names, region_names;
    std::vector<MeshPoint> points;
    std::vector<std::vector<int>> names_of_edge;  ///< for each edge of the part, indices into boundary_names

    [[nodiscard]] std::size_t element_count() const { return kinds.size(); }
    [[nodiscard]] std::span<const std::int32_t> element(std::size_t e) const {
        return {connectivity.data() + first[e], static_cast<std::size_t>(first[e + 1] - first[e])};
    }
    /// The slots of an element's nodes.
    [[nodiscard]] std::span<const std::int32_t> slots_of(std::size_t e) const {
        return {slots.data() + first[e], static_cast<std::size_t>(first[e + 1] - first[e])};
    }
    /// The positions of an element's nodes.
    [[nodiscard]] std::array<Vec2, most_element_nodes> positions(std::size_t e) const;
    /// The mean of its corners.
    [[nodiscard]] Vec2 centre_of(std::size_t e) const;
    [[nodiscard]] double area_of(std::size_t e) const;
    /// The length that is compared with the wanted size: the side of the equilateral triangle, or of the square, of the
    /// element's area.
    [[nodiscard]] double size_of(std::size_t e) const;
    [[nodiscard]] double area() const;
    /// One of its nodes lies at a point, or nearer to it than `near`.
    [[nodiscard]] bool touches(std::size_t element, const Vec2& point, double near) const;
};

/// What some patterns mean in a mesh, by the names of its entities: found once, asked often.
class Meant {
  public:
    Meant(const Mesh& mesh, const std::vector<std::string>& patterns);
    /// A boundary side whose edge carries a name that fits one of the patterns.
    [[nodiscard]] bool side(const BoundarySide& side) const { return edge_[static_cast<std::size_t>(side.edge)] != 0; }
    /// An element whose region's name does.
    [[nodiscard]] bool element(std::size_t e) const { return region(static_cast<std::size_t>(mesh_.region[e])); }
    [[nodiscard]] bool region(std::size_t r) const { return region_[r] != 0; }
    [[nodiscard]] bool any_region() const;

  private:
    const Mesh& mesh_;
    std::vector<char> edge_, region_;
};

/// Fills `slots` and `node_of_slot` from the regions.
void number_slots(Mesh& mesh);
/// Fills all that follows from the elements and their regions: the slots, and `sides`.
void connect(Mesh& mesh);

/// The slot of a node as an element has it.
std::int32_t slot_of(const Mesh& mesh, std::size_t element, int node);

/// Gives nodes nearer to the axis of revolution, x = 0, than `reach` the radius 0: what curves and their intersections
/// leave at 1e-14 would be a radius to divide by.
void put_on_axis(Mesh& mesh, double reach);

/// For each node the elements that have it: elements_of[first[n]] ... elements_of[first[n + 1] - 1], ascending.
struct NodeElements {
    std::vector<std::int64_t> first;
    std::vector<std::int32_t> elements;
    [[nodiscard]] std::span<const std::int32_t> of(std::size_t n) const {
        return {elements.data() + first[n], static_cast<std::size_t>(first[n + 1] - first[n])};
    }
};
NodeElements node_elements(const Mesh& mesh);

struct MeshSummary {
    std::size_t nodes = 0, elements = 0, quadrilaterals = 0;
    double area = 0;
    double characteristic_size = 0;              ///< sqrt(area / elements)
    double worst_quality = 1, mean_quality = 1;  ///< mean ratio; rows of layers do not count
    double smallest_angle = 0;                   ///< degrees, over the corners
    Vec2 worst_position;
};
MeshSummary summarise(const Mesh& mesh);

}  // namespace dotsift
