#pragma once
// What a series of values on ever finer meshes says about the value on an infinitely fine one.

#include <optional>
#include <vector>

#include "statistics/least_squares.hpp"
#include "statistics/level_value.hpp"

namespace dotsift {

enum class Behaviour {
    too_few,      ///< fewer than three levels
    settled,      ///< the last changes are rounding only
    monotone,     ///< the changes shrink and keep their sign
    oscillating,  ///< the changes change sign
    scattered,    ///< the changes do not shrink, but are small: mesh noise
    diverging     ///< the changes do not shrink
};

const char* name_of(Behaviour behaviour);

/// What the last three levels show. Relative quantities refer to the finest value. NaN: not defined for this behaviour.
struct Convergence {
    Behaviour behaviour = Behaviour::too_few;
    int levels = 0;
    double finest = 0;
    double change = 0;          ///< |finest - one coarser| / |finest|
    double observed_order = 0;  ///< from the last three levels
    double earlier_order = 0;   ///< from the three levels before the last
    double expected_order = 0;  ///< the one that theory promises
    double used_order = 0;      ///< the observed one held between least_order and the expected one
    double extrapolated = 0;    ///< Richardson, with the used order
    double safety_factor = 0;   ///< of the index
    double gci_fine = 0,
           gci_coarse = 0;        ///< grid convergence index on the finest level and on the one before, relative
    double asymptotic_ratio = 0;  ///< gci_coarse / (r^p gci_fine); near 1 in the asymptotic range
    bool asymptotic = false;
    std::optional<LeastSquaresUncertainty> least_squares;  ///< from four levels on, unless settled
};

// Changes below this share of the value, or of the terms that it is made of, are rounding, not discretisation.
inline constexpr double rounding_share = 1e-10;
inline constexpr double least_order = 0.5;
inline constexpr double usual_safety_factor = 1.25;  ///< three or more levels that converge as expected
inline constexpr double cautious_safety_factor = 3;  ///< else

/// Levels from coarse to fine; h must fall from level to level (throws std::invalid_argument otherwise, and for values
/// that are not finite). `expected_order` is the order that theory promises; changes far below `terms` (the size of
/// what the values are made of) count as rounding.
///
/// Observed order for any ratios after Celik et al. 2008, J. Fluids Eng. 130, 078001, eq. (5), with the sign kept so
/// that divergence shows; grid convergence index with the safety factors of Roache 1998, "Verification and Validation
/// in Computational Science and Engineering", ch. 5. Rules for each behaviour: docs/methods.md.
Convergence judge_convergence(const std::vector<LevelValue>& levels, double expected_order, double terms = 0);

/// Where the changes count as rounding: this much of the values.
double rounding_of(const std::vector<LevelValue>& levels, double terms);

/// The order p that fits three values on sizes h1 < h2 < h3: (v3 - v2) / (v2 - v1) = r21^p (r32^p - 1) / (r21^p - 1),
/// or with + instead of - if the changes alternate. NaN if none above zero does.
double observed_order(const LevelValue& fine, const LevelValue& middle, const LevelValue& coarse);

}  // namespace dotsift
