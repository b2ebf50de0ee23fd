#pragma once
// Convergence and target -> a sentence that can be quoted.

#include <optional>
#include <string>

#include "statistics/convergence.hpp"
#include "statistics/interval.hpp"
#include "study/study.hpp"

namespace dotsift {

enum class Verdict { met, missed, no_target, undecided, unbounded };

const char* name_of(Verdict verdict);

struct QuantityVerdict {
    std::string quantity, series;
    Verdict verdict = Verdict::undecided;
    bool has_target = false;
    Convergence convergence;
    Interval interval;
    std::string sentence;
};

/// The order at which theory lets a quantity of elements of this degree converge on meshes that are refined everywhere;
/// docs/methods.md. `least_exponent` is the lowest one of the places where the solution is not smooth (see
/// SingularPoint): they hold every quantity to order 2 * exponent, unless the mesh is graded towards them.
double expected_order(const QuantitySpec& quantity, int degree, double least_exponent = 1);

/// What is known of a quantity in one series.
struct QuantityEvidence {
    std::string series, unit;
    std::vector<LevelValue> levels;
    double expected_order = 0;
    double terms = 0;                  ///< the size of what the values are made of
    std::optional<double> dual_error;  ///< see interval_of
    std::string caution;               ///< what else has to be known, as a sentence
    std::string unbounded;             ///< why the quantity has no limit, whatever its values seem to do
};

QuantityVerdict judge_quantity(const QuantitySpec& quantity, const QuantityEvidence& evidence);

}  // namespace dotsift
