#pragma once
// What solving gives: displacement, potential, and the sums that belong to them.

#include <string>
#include <vector>

#include "mesh/mesh.hpp"
#include "solve/element_matrix.hpp"
#include "solve/material.hpp"
#include "solve/system/linear_solver.hpp"
#include "solve/volume_strain.hpp"

namespace dotsift {

struct LoadTotal {
    std::string name;
    Vec2 force{};
    double moment = 0;         ///< about the origin, anticlockwise
    double flow = 0;           ///< into the part
    double boundary_area = 0;  ///< length times depth of where it acts
    double magnitude = 0;      ///< integral of the magnitudes of force and flow, which do not cancel
};

struct SupportReaction {
    std::string name;
    Vec2 force{};       ///< what the support does to the part
    double moment = 0;  ///< about the origin
    double flow = 0;    ///< into the part
};

/// Sums of everything that acts on the part; each should vanish.
struct LoadBalance {
    Vec2 applied{}, reaction{};
    double applied_moment = 0, reaction_moment = 0;
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

/// One load case.
struct Solution {
    std::string load_case;                   ///< empty: all loads together
    std::vector<Vec2> displacement;          ///< at each node; empty: not solved for
    AxialStrain axial;                       ///< generalised plane strain
    std::vector<VolumeStrain> volume;        ///< of each element; empty: none is projected
    std::vector<double> temperature_change;  ///< at each slot (see Mesh), where there is thermal strain; else empty.
                                             ///< Where the expansion changes, what it would be with a constant one
    std::vector<double> temperature_slope;   ///< its derivative by the temperature there; empty: 1
    std::vector<double> potential;           ///< at each slot; empty: not solved for
    /// At each slot, modulus and conductivity over those at the reference temperature; empty: 1. The slope is the
    /// derivative of the first by the temperature.
    std::vector<double> stiffness_factor, stiffness_slope, conductivity_factor;
    double strain_energy = 0;  ///< elastic; without thermal strain half the work of the forces
    double dissipation = 0;    ///< integral of gradient . conductivity . gradient
    std::vector<LoadTotal> loads;
    std::vector<SupportReaction> reactions;  ///< supports, then ties, in the order of the study
    std::vector<RemoteMotion> remotes;
    LoadBalance balance;
    std::int64_t unknowns = 0;
    SolverReport solver;
};

/// How many times as stiff, or as conductive, the material is at a point as at the reference temperature.
double stiffness_at(const Mesh& mesh, const Solution& solution, std::size_t element, const ElementPoint& point);
double conductivity_at(const Mesh& mesh, const Solution& solution, std::size_t element, const ElementPoint& point);

/// The elements' own stress and flux.
Tensor4 stress_at(const Mesh& mesh, const Laws& laws, const Solution& solution, std::size_t element,
                  const ElementPoint& point);
Vec2 flux_at(const Mesh& mesh, const Laws& laws, const Solution& solution, std::size_t element,
             const ElementPoint& point);

}  // namespace dotsift
