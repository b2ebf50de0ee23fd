#pragma once
// The one interval that is reported for a quantity.

#include <limits>
#include <optional>
#include <string>
#include <vector>

#include "statistics/convergence.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The finest value and the half-width of the 95 % interval about it.
struct Interval {
    double value = 0;
    double half_width = 0;  ///< NaN: none can be given
    std::string rule;       ///< how it was found, in words
    bool promised = true;   ///< of 95 %; false where what it rests on is a guess
    [[nodiscard]] bool known() const;
    [[nodiscard]] double relative() const;  ///< of the value; absolute where that is 0
};

/// What kind of number a quantity is: how it converges depends on it.
enum class QuantityKind {
    displacement,  ///< a displacement or potential at a point, or its extreme
    local,         ///< a stress, strain or flux at a point
    peak,          ///< the extreme of one
    mean,          ///< over a boundary, a region or a path; also sections and linearised stresses
    total,         ///< an energy or reaction
    unknown        ///< a formula of others, or a number from elsewhere
};
QuantityKind kind_of_quantity(const QuantitySpec& quantity);
const char* name_of(QuantityKind kind);

/// What is known of a quantity in one series.
struct QuantityEvidence {
    std::string series, unit;
    QuantityKind measure = QuantityKind::unknown;
    SeriesKind kind = SeriesKind::uniform;
    bool smooth = true;                    ///< no singular places are known
    std::vector<LevelValue> levels;        ///< from coarse to fine
    std::vector<double> estimated_errors;  ///< of each, relative, in the energy norm; may be empty
    double expected_order = 0;
    int degree = 2;             ///< of the elements, the least
    double quadrilaterals = 0;  ///< their share of the elements
    bool order_known = true;    ///< the expected order is that of the method, not a guess
    double terms = 0;           ///< the size of what the values are made of
    /// Truth less finest value as a dual problem estimates it; with a radius, that of a mean which stands for it.
    std::optional<double> dual_error;
    double dual_radius = 0;
    double spread = std::numeric_limits<double>::quiet_NaN();  ///< on the finest level, see QuantityValue
    std::vector<double> unseen_errors;                         ///< of each level, relative: see Level; may be empty
    std::string caution;                                       ///< what else has to be known, as a sentence
    std::string unbounded;  ///< why the quantity has no limit, whatever its values seem to do
    /// The dual error of the quantity itself.
    [[nodiscard]] std::optional<double> own_dual_error() const { return dual_radius == 0 ? dual_error : std::nullopt; }
};

/// The interval of 95 % about the finest value. What is known of its error is added up as the root of the sum of
/// squares, times a factor for each kind of quantity: by Richardson's extrapolation with the expected order p the last
/// change |e21| / (r21^p - 1) and the one before |e32| / (r32^p - 1) / r21^p; of stresses at a place how far the fits
/// round it differ; of means and totals the dual problem's estimate, of totals the squared error in the energy norm;
/// and what no estimate of the fields sees. An order that is clearly below the expected one takes its place. Growing
/// changes have no interval but a dual problem's; nor have one or two levels, but of totals and of means. Calibration:
/// docs/verification.md.
Interval interval_of(const QuantityEvidence& evidence, const Convergence& convergence);

}  // namespace dotsift
