#pragma once
// Where a mesh is too coarse, without a recovered field.

#include <functional>
#include <optional>
#include <vector>

#include "recovery/estimate.hpp"

namespace dotsift {

/// Explicit residual estimate: what is out of balance inside the elements, and the jumps of tractions or fluxes over
/// their sides, with the constants of Kelly, Gago, Zienkiewicz & Babuska 1983, Int. J. Numer. Meth. Eng. 19:
/// h^2 / (24 k p^2) and h / (24 k p). A side on the outline counts like one to the part's mirror image.
ErrorMap residual_stress_error(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution);
ErrorMap residual_flux_error(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution);

/// What acts on a solid: a force per volume, or what flows in per volume; and the same per area where that is known.
template <class Density>
struct ActingOnSolid {
    std::function<Density(const Vec3& place)> inside;
    std::function<std::optional<Density>(const BoundarySide& side, const Vec3& place, const Vec3& normal)> outline;
};
ErrorMap residual_stress_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                               const ActingOnSolid<Vec3>& acting);
ErrorMap residual_flux_error(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution,
                             const ActingOnSolid<double>& acting);

/// The mean energy per volume of each element: of strain, or of dissipation.
template <int D>
std::vector<double> energy_densities(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolutionIn<D>& solution,
                                     bool of_potential);

/// Squares of what a field given at the slots (see Topology) or at the elements shows of each element; they need
/// nothing else, so that any field of any file can be used. Of slots, h * integral of the squared jump of the normal
/// derivative over the element's sides; of elements, the squared jumps of the value over them. Sides between regions do
/// not count.
template <int D>
std::vector<double> jumps_of_slots(const MeshIn<D>& mesh, const std::vector<double>& values);
std::vector<double> jumps_of_elements(const Topology& mesh, const std::vector<double>& values);
/// The squared difference of the largest and the smallest value at an element's nodes.
std::vector<double> changes_of_slots(const Topology& mesh, const std::vector<double>& values);

}  // namespace dotsift
