#pragma once
// Fields over solids -> gradients that are more accurate than the elements' own, and the error that they show.

#include <array>
#include <span>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/solid_law.hpp"

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

/// At a point of an element, interpolated from the slots.
template <std::size_t components>
Gradients<components> gradients_at(const SolidMesh& mesh, const std::vector<Gradients<components>>& slots,
                                   std::size_t element, const ElementPointIn<3>& point);

/// Strain of displacement gradients, as solid_strain has it.
Tensor6 strain_of(const Gradients<3>& gradients);

/// The squared energy norm of what recovered and own gradients differ by, of each element: of a displacement (three
/// components, at nodes) or a potential (one, at slots).
std::vector<double> estimated_error2(const SolidMesh& mesh, const std::vector<SolidLaw>& laws,
                                     const std::vector<Gradients<3>>& recovered, std::span<const double> displacement);
std::vector<double> estimated_error2(const SolidMesh& mesh, const std::vector<SolidLaw>& laws,
                                     const std::vector<Gradients<1>>& recovered, std::span<const double> potential);

}  // namespace dotsift
