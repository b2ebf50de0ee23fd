#pragma once
// Fields over solids -> gradients, stress and flux that are more accurate than the elements' own.

#include <array>
#include <span>
#include <vector>

#include "mesh/mesh.hpp"
#include "recovery/recover.hpp"
#include "solve/material/solid_law.hpp"
#include "solve/solution.hpp"

namespace dotsift {

/// Gradient of each component.
template <std::size_t components>
using Gradients = std::array<Vec3, components>;

/// Gradients at every slot (see Topology) of a field of one or three components, of which values[components * k + c]
/// belongs to the k-th entry of the numbering that `connectivity` holds: nodes, or slots. Round each corner, over the
/// elements that have it, and more rings of them on the outline or where there are few nodes, a polynomial of three
/// variables, one degree above linear and two above quadratic elements, is fitted to the nodes' values by least squares
/// (Zhang & Naga 2005, SIAM J. Sci. Comput. 26, in the plane); other nodes take the mean of the polynomials of their
/// corners. Patches do not reach across regions.
template <std::size_t components>
std::vector<Gradients<components>> recover_gradients(const SolidMesh& mesh, std::span<const std::int32_t> connectivity,
                                                     std::span<const double> values);

/// Values at every slot; between them interpolated, which is all that is known of them.
template <>
struct RecoveredStressIn<3> {
    std::vector<Stress3> slots;
    [[nodiscard]] Stress3 at(const SolidMesh& mesh, const SolidLaws&, const SolutionIn<3>&, std::size_t element,
                             const ElementPointIn<3>& point) const {
        return interpolate(mesh, slots, element, point);
    }
    [[nodiscard]] Stress3 finest(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                                 std::size_t element, const ElementPointIn<3>& point) const {
        return at(mesh, laws, solution, element, point);
    }
};
template <>
struct RecoveredFluxIn<3> {
    std::vector<Vec3> slots;
    [[nodiscard]] Vec3 at(const SolidMesh& mesh, const SolidLaws&, std::size_t element,
                          const ElementPointIn<3>& point) const {
        return interpolate(mesh, slots, element, point);
    }
    [[nodiscard]] Vec3 finest(const SolidMesh& mesh, const SolidLaws& laws, std::size_t element,
                              const ElementPointIn<3>& point) const {
        return at(mesh, laws, element, point);
    }
};
/// As of the plane.
inline Stress3 recovered_stress(const SolidMesh& mesh, const SolidLaws&, const SolutionIn<3>&,
                                const std::vector<Stress3>& slots, std::size_t element,
                                const ElementPointIn<3>& point) {
    return interpolate(mesh, slots, element, point);
}

/// From the recovered gradients, by the law of each slot's region.
RecoveredStressIn<3> recover_stress(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution);
RecoveredFluxIn<3> recover_flux(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution);

}  // namespace dotsift
