#pragma once
// What solving gives: displacement, potential, and the sums that belong to them.

#include <cmath>
#include <string>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/element_matrix.hpp"
#include "solve/material/material.hpp"
#include "solve/material/solid_law.hpp"
#include "solve/material/volume_strain.hpp"
#include "solve/system/linear_solver.hpp"

namespace dotsift {

/// Forces and moments are those of space: in the plane z = 0, and moments are about z, anticlockwise.
struct LoadTotal {
    std::string name;
    Vec3 force{}, moment{};    ///< about the origin
    double flow = 0;           ///< into the part
    double boundary_area = 0;  ///< length times depth of where it acts
    double magnitude = 0;      ///< integral of the magnitudes of force and flow, which do not cancel
    /// In a load case that takes it times a factor.
    [[nodiscard]] LoadTotal times(double factor) const {
        LoadTotal t = *this;
        t.force *= factor;
        t.moment *= factor;
        t.flow *= factor;
        t.magnitude *= std::fabs(factor);
        return t;
    }
};

struct SupportReaction {
    std::string name;
    Vec3 force{}, moment{};  ///< what the support does to the part; about the origin
    double flow = 0;         ///< into the part
};

/// Sums of everything that acts on the part; each should vanish.
struct LoadBalance {
    Vec3 applied{}, reaction{}, applied_moment{}, reaction_moment{};
    double applied_flow = 0, reaction_flow = 0;
    /// The largest of these sums, relative to the sum of the magnitudes of all nodal forces (times the part's size for
    /// the moment) or of all nodal flows. Of an axisymmetric body only the axial force counts.
    double relative_error = 0;
    double magnitude = 0;       ///< the sum of the magnitudes of all nodal forces, applied and reacting
    double flow_magnitude = 0;  ///< the same of flows
};

/// The motion of a remote point.
struct RemoteMotion {
    std::string name;
    Vec2 displacement{};
    double turn = 0;
};

/// The fields of one load case. Slots: see Topology.
template <int D>
struct SolvedFields {
    std::string load_case;                   ///< empty: all loads together
    std::vector<Vec<D>> displacement;        ///< at each node; empty: not solved for
    std::vector<double> temperature_change;  ///< at each slot, where there is thermal strain; else empty. Where the
                                             ///< expansion changes, what it would be with a constant one
    std::vector<double> temperature_slope;   ///< its derivative by the temperature there; empty: 1
    std::vector<double> potential;           ///< at each slot; empty: not solved for
    /// At each slot, modulus and conductivity over those at the reference temperature; empty: 1. The slope is the
    /// derivative of the first by the temperature.
    std::vector<double> stiffness_factor, stiffness_slope, conductivity_factor;
    double strain_energy = 0;  ///< elastic; without thermal strain half the work of the forces
    double dissipation = 0;    ///< integral of gradient . conductivity . gradient
    std::vector<LoadTotal> loads;
    std::vector<SupportReaction> reactions;  ///< supports, then ties, in the order of the study
    LoadBalance balance;
    std::int64_t unknowns = 0;
    SolverReport solver;
};

template <int D>
struct SolutionIn;
template <>
struct SolutionIn<2> : SolvedFields<2> {
    AxialStrain axial;                 ///< generalised plane strain
    std::vector<VolumeStrain> volume;  ///< of each element; empty: none is projected
    std::vector<RemoteMotion> remotes;
};
using Solution = SolutionIn<2>;

template <>
struct SolutionIn<3> : SolvedFields<3> {};

/// At a slot; 1 if there are none.
inline double factor_of(const std::vector<double>& factors, std::size_t slot) {
    return factors.empty() ? 1 : factors[slot];
}

/// How many times as stiff, or as conductive, the material is at a point as at the reference temperature.
template <int D>
double stiffness_at(const MeshIn<D>& mesh, const SolvedFields<D>& solution, std::size_t element,
                    const ElementPointIn<D>& point) {
    return solution.stiffness_factor.empty() ? 1 : slot_value(mesh, solution.stiffness_factor, element, point);
}
template <int D>
double conductivity_at(const MeshIn<D>& mesh, const SolvedFields<D>& solution, std::size_t element,
                       const ElementPointIn<D>& point) {
    return solution.conductivity_factor.empty() ? 1 : slot_value(mesh, solution.conductivity_factor, element, point);
}

/// The elements' own stress and flux.
Stress stress_at(const Mesh& mesh, const Laws& laws, const Solution& solution, std::size_t element,
                 const ElementPoint& point);
Stress3 stress_at(const SolidMesh& mesh, const SolidLaws& laws, const SolutionIn<3>& solution, std::size_t element,
                  const ElementPointIn<3>& point);
template <int D>
Vec<D> flux_at(const MeshIn<D>& mesh, const LawsIn<D>& laws, const SolvedFields<D>& solution, std::size_t element,
               const ElementPointIn<D>& point) {
    return laws.of(mesh.region[element]).conduction.flux(slot_gradient(mesh, solution.potential, element, point)) *
           conductivity_at(mesh, solution, element, point);
}

}  // namespace dotsift
