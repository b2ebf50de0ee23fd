#pragma once
// Convergence and target -> a sentence that can be quoted.

#include <optional>
#include <string>

#include "statistics/convergence.hpp"
#include "study/study.hpp"

namespace dotsift {

enum class Verdict { met, missed, no_target, undecided, unbounded };

const char* name_of(Verdict verdict);

struct QuantityVerdict {
    std::string quantity, series;
    Verdict verdict = Verdict::undecided;
    bool has_target = false;
    Convergence convergence;
    std::string sentence;
};

/// The order at which a quantity of quadratic elements converges where the solution is smooth; docs/methods.md.
double formal_order(const QuantitySpec& quantity);

/// `unbounded`, if it is not empty, tells why the quantity has no limit, whatever its values seem to do.
QuantityVerdict judge_quantity(const QuantitySpec& quantity, const std::string& series,
                               const std::vector<LevelValue>& levels, const std::string& unit, double scale = 0,
                               const std::string& unbounded = {});

}  // namespace dotsift
