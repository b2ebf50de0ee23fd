#pragma once
// Temperature -> what strains a part thermally, and what it makes of the materials.

#include <vector>

#include "mesh/mesh.hpp"
#include "study/study.hpp"

namespace dotsift {

/// At each slot; both are empty where nothing is heated.
struct ThermalStrain {
    /// The change of temperature that brings, with the expansion at the reference, the thermal strain that is there.
    std::vector<double> change;
    /// Its derivative by the temperature; empty: 1, as where the expansion is constant.
    std::vector<double> slope;
    /// Young's modulus over that at the reference, and its derivative by the temperature; empty: 1 and 0.
    std::vector<double> stiffness_factor, stiffness_slope;
};

/// Of the loads of a case that prescribe a change of temperature, and of a temperature that was solved for (at each
/// slot; empty: none). An expansion over the temperature is the mean from the reference to there, so that the strain is
/// expansion(T) (T - reference). Throws InputError if a constant is no number, or a modulus not greater than zero, at a
/// temperature that occurs.
template <int D>
ThermalStrain thermal_strain(const MeshIn<D>& mesh, const Study& study, const CaseSpec& load_case,
                             const std::vector<double>& temperature);

/// Conductivity over that at the reference, at each slot; empty: 1. Throws InputError as above.
std::vector<double> conductivity_factor(const Topology& mesh, const Study& study,
                                        const std::vector<double>& temperature);

}  // namespace dotsift
