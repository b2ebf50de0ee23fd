#pragma once
// How far a solution is from a known one, in the norms in which the theory gives orders.

#include "solve/solution.hpp"
#include "study/formula.hpp"
#include "verification/manufactured.hpp"

namespace dotsift {

/// Relative to the same norm of the known solution.
struct ErrorNorms {
    double energy = 0;     ///< of stress or flux
    double l2 = 0;         ///< of the displacement or potential itself
    double recovered = 0;  ///< of the recovered stress or flux, in the energy norm
    double largest = 0;    ///< largest error of a stress or flux component over the largest component
};

/// Formulas may use the variables of the study. Integrated to degree 6 in each element.
ErrorNorms error_norms(const Mesh& mesh, const Study& study, const Laws& laws, const Solution& solution,
                       const Manufactured& known);

}  // namespace dotsift
