#pragma once
// Values on four or more meshes -> the expansion of the error that fits them best.

#include <string>
#include <vector>

#include "statistics/level_value.hpp"

namespace dotsift {

/// value(h) = limit + sum of coefficient * h^power, fitted by least squares.
struct ExpansionFit {
    double limit = 0;
    std::vector<double> powers, coefficients;
    bool weighted = false;                        ///< by 1 / h: fine meshes count more
    double deviation = 0;                         ///< standard deviation of the fit
    double at_finest = 0;                         ///< the fit's value on the finest mesh
    [[nodiscard]] std::string expansion() const;  ///< "a h^1.87", "a h + b h^2"
};

/// Uncertainty of the finest value.
struct LeastSquaresUncertainty {
    ExpansionFit fit;
    double observed_order = 0;  ///< of the fit with a free power; NaN: there is none above zero
    double range = 0;           ///< of the values, over the number of intervals between them
    double safety_factor = 0;   ///< 1.25: the order is credible and the fit better than the range; else 3
    double half_width = 0;
};

/// Eca & Hoekstra 2014, J. Comput. Phys. 262, 104-130, section 4: the free power where it lies between 0.5 and the
/// formal order; above, one term of order 1 or of the formal order (there: 2), below, both together as well; of each
/// the weighted and the unweighted fit, the one with the smallest standard deviation being chosen; then the safety
/// factor by the fit's quality, eqs. (15) to (18). At least four levels, from coarse to fine; throws
/// std::invalid_argument for fewer.
LeastSquaresUncertainty least_squares_uncertainty(const std::vector<LevelValue>& levels, double formal_order);

}  // namespace dotsift
