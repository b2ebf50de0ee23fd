#pragma once
// A formula of the place that several threads may ask at once.

#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "study/formula.hpp"

namespace dotsift {

/// A measure that has to be greater than zero wherever it is asked for, such as a thickness.
class PositiveField {
  public:
    /// `what` is told in faults, as in "part.thickness". Throws as FormulaEvaluator does.
    PositiveField(Formula formula, std::string file, std::string what);
    /// Throws InputError with the place if the value is no number above zero.
    [[nodiscard]] double operator()(const Vec2& position) const;
    [[nodiscard]] const std::string& text() const { return formula_.text; }

  private:
    Formula formula_;
    std::string file_, what_;
    mutable std::mutex mutex_;
    mutable std::vector<std::unique_ptr<FormulaEvaluator>> idle_;  ///< evaluators keep what they are working on
};

}  // namespace dotsift
