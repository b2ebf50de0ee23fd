#pragma once
// Fields from one mesh of a part to another.

#include <array>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/material/tensor.hpp"

namespace dotsift {

/// How a field is carried.
enum class CarryRule {
    consistent,   ///< its value at each place: fields that both meshes contain come over unchanged
    bounded,      ///< the same, held between the values at the nodes of the element that it comes from
    conservative  ///< then shifted in each region so that its integral stays
};

/// The places of the slots (see Mesh) of a mesh, or of its nodes, in another mesh of the same regions, found once for
/// all fields that are carried there. Slots lie in their own region on both meshes; places outside of `from`, which
/// curved outlines make possible, take the nearest element.
template <int D>
class Carrier {
  public:
    enum class Of { slots, nodes };  ///< values at nodes do not jump between regions
    /// `wanted`: which of them; empty: all. The others get zero.
    Carrier(const MeshIn<D>& from, const MeshIn<D>& to, Of of, const std::vector<char>& wanted = {});

    /// Values of some numbers each. `bounded`: held between those at the nodes of the element that they come from.
    template <class Value>
    [[nodiscard]] std::vector<Value> operator()(const std::vector<Value>& values, bool bounded = false) const;

  private:
    struct Source {
        std::int64_t element = -1;
        Vec<D> xi;
    };
    const MeshIn<D>& from_;
    Of of_;
    std::vector<Source> sources_;
};

/// What the slots of `to` get from those of `from`. Integrals are over the area, of solids the volume.
std::vector<double> carry_slots(const Mesh& from, const std::vector<double>& values, const Mesh& to, CarryRule rule);
std::vector<double> carry_slots(const SolidMesh& from, const std::vector<double>& values, const SolidMesh& to,
                                CarryRule rule);

/// Of values at nodes, consistent.
template <int D>
std::vector<Vec<D>> carry_nodes(const MeshIn<D>& from, const std::vector<Vec<D>>& values, const MeshIn<D>& to) {
    return Carrier<D>(from, to, Carrier<D>::Of::nodes)(values);
}

/// The integral over each region.
std::vector<double> integrals_by_region(const Mesh& mesh, const std::vector<double>& slots);
std::vector<double> integrals_by_region(const SolidMesh& mesh, const std::vector<double>& slots);

}  // namespace dotsift
