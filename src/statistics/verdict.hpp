#pragma once
// Convergence and target -> a sentence that can be quoted.

#include <cmath>
#include <optional>
#include <string>

#include "statistics/convergence.hpp"
#include "statistics/interval.hpp"
#include "statistics/limit.hpp"
#include "study/study.hpp"

namespace dotsift {

enum class Verdict { met, missed, no_target, undecided, unbounded };

const char* name_of(Verdict verdict);

/// "2 %", or "0.02 mm".
std::string shown_target(const QuantityTarget& target, const std::string& unit);

struct QuantityVerdict {
    std::string quantity, series, unit;
    Verdict verdict = Verdict::undecided;
    bool has_target = false;
    Convergence convergence;
    Interval interval;
    double terms = 0;                   ///< the size of what the values are made of
    double estimated_error = INFINITY;  ///< relative, in the energy norm, on the finest level
    std::optional<double> reference;    ///< a value known from elsewhere
    /// Whether the interval holds the reference; nothing without one.
    [[nodiscard]] std::optional<bool> holds_reference() const;
    std::optional<LimitVerdict> limit;  ///< where the quantity has one
    std::string caution;                ///< what else has to be known, as a sentence
    std::string sentence;
    /// The value cannot be told from zero: a share of it means nothing.
    [[nodiscard]] bool near_zero() const;
};

/// The order at which theory lets a quantity of elements of this degree converge on meshes that are refined everywhere;
/// docs/methods.md. `least_exponent` is the lowest one of the places where the solution is not smooth (see
/// SingularPoint): they hold every quantity to order 2 * exponent, unless the mesh is graded towards them.
double expected_order(const QuantitySpec& quantity, int degree, double least_exponent = 1);

/// The same on meshes that are graded towards those places as their error asks (docs/methods.md).
double graded_order(const QuantitySpec& quantity, int degree, double least_exponent, bool solid);

QuantityVerdict judge_quantity(const QuantitySpec& quantity, const QuantityEvidence& evidence);

/// Holds the interval against the limit that the quantity may have, and adds what comes of it to the sentence.
void hold_to_limit(const QuantitySpec& quantity, QuantityVerdict& verdict);

/// Holds the interval against the target and says so, after either was changed.
void decide(const QuantitySpec& quantity, QuantityVerdict& verdict);

}  // namespace dotsift
