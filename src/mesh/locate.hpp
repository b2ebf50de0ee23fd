#pragma once
// Which element contains a point.

#include <optional>
#include <type_traits>
#include <vector>

#include "mesh/mesh.hpp"

namespace dotsift {

template <int D>
struct LocationIn {
    std::size_t element = 0;
    Vec<D> xi;           ///< reference coordinates
    double outside = 0;  ///< by how much of the element's size the point lies outside of it
};
using Location = LocationIn<2>;

/// Finds elements through a grid of boxes; the mesh must outlive it.
template <int D>
class ElementLocatorIn {
  public:
    explicit ElementLocatorIn(const MeshIn<D>& mesh);
    /// The element that contains the point. Of a point outside the mesh the nearest one if it is as near as a tenth of
    /// an element, which curved sides make possible; else nothing.
    [[nodiscard]] std::optional<LocationIn<D>> find(const Vec<D>& point) const;
    /// The same, but of any point.
    [[nodiscard]] LocationIn<D> nearest(const Vec<D>& point) const;
    [[nodiscard]] const MeshIn<D>& mesh() const { return mesh_; }

    /// For each region that has the point, inside or on its rim, one of its elements there; only regions whose name
    /// fits `inside`, if it names any. At least one: the nearest element, if no region has it.
    [[nodiscard]] std::vector<LocationIn<D>> sides_of(const Vec<D>& point,
                                                      const std::vector<std::string>& inside) const;

  private:
    [[nodiscard]] std::optional<LocationIn<D>> best_of(const Vec<D>& point,
                                                       std::span<const std::int32_t> elements) const;
    [[nodiscard]] std::span<const std::int32_t> elements_near(const Vec<D>& point) const;

    const MeshIn<D>& mesh_;
    Vec<D> low_, cell_;
    std::array<std::size_t, D> count_{};
    std::vector<std::int64_t> first_;
    std::vector<std::int32_t> elements_;
};
using ElementLocator = ElementLocatorIn<2>;

}  // namespace dotsift
