#pragma once
// Where a mesh is too coarse, without a recovered field.

#include <vector>

#include "recovery/estimate.hpp"

namespace dotsift {

/// Explicit residual estimate: what is out of balance inside the elements, and the jumps of tractions or fluxes over
/// their sides, with the constants of Kelly, Gago, Zienkiewicz & Babuska 1983, Int. J. Numer. Meth. Eng. 19:
/// h^2 / (24 k p^2) and h / (24 k p). A side on the outline counts like one to the part's mirror image.
ErrorMap residual_stress_error(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution);
ErrorMap residual_flux_error(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution);

/// The mean energy per volume of each element: of strain, or of dissipation.
std::vector<double> energy_densities(const Mesh& mesh, const Laws& laws, const Solution& solution, bool of_potential);

/// Squares of what a field given at the slots (see Mesh) or at the elements shows of each element; they need nothing
/// else, so that any field of any file can be used. Of slots, h * integral of the squared jump of the normal
/// derivative over the element's sides; of elements, the squared jumps of the value over them. Sides between regions do
/// not count.
std::vector<double> jumps_of_slots(const Mesh& mesh, const std::vector<double>& values);
std::vector<double> jumps_of_elements(const Mesh& mesh, const std::vector<double>& values);
/// The squared difference of the largest and the smallest value at an element's nodes.
std::vector<double> changes_of_slots(const Mesh& mesh, const std::vector<double>& values);

}  // namespace dotsift
