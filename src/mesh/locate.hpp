#pragma once
// Which element contains a point.

#include <optional>
#include <vector>

#include "mesh/mesh.hpp"

namespace dotsift {

struct Location {
    std::size_t element = 0;
    Vec2 xi;             ///< reference coordinates
    double outside = 0;  ///< by how much of the element's size the point lies outside of it
};

/// Finds elements through a grid of boxes; the mesh must outlive it.
class ElementLocator {
  public:
    explicit ElementLocator(const Mesh& mesh);
    /// The element that contains the point. Of a point outside the mesh the nearest one if it is as near as a tenth of
    /// an element, which curved sides make possible; else nothing.
    [[nodiscard]] std::optional<Location> find(const Vec2& point) const;
    /// The same, but of any point.
    [[nodiscard]] Location nearest(const Vec2& point) const;
    [[nodiscard]] const Mesh& mesh() const { return mesh_; }

    /// For each region that has the point, inside or on its rim, one of its elements there; only regions whose name
    /// fits `inside`, if it names any. At least one: the nearest element, if no region has it.
    [[nodiscard]] std::vector<Location> sides_of(const Vec2& point, const std::vector<std::string>& inside) const;

  private:
    [[nodiscard]] std::optional<Location> best_of(const Vec2& point, std::span<const std::int32_t> elements) const;
    [[nodiscard]] std::span<const std::int32_t> elements_near(const Vec2& point) const;

    const Mesh& mesh_;
    Vec2 low_, cell_;
    std::array<std::size_t, 2> count_{1, 1};
    std::vector<std::int64_t> first_;
    std::vector<std::int32_t> elements_;
};

}  // namespace dotsift
