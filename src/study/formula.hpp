#pragma once
// Formulas that stand for numbers: of the study's variables, and where allowed of the place.

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/errors.hpp"
#include "base/vec.hpp"
#include "study/diagnostics.hpp"
#include "study/scattered.hpp"

namespace dotsift {

/// Values over a coordinate, straight in between and constant beyond the ends, or at scattered points of the plane;
/// formulas call it by its name, with x, or x and y.
struct ValueTable {
    std::string name;
    Where where;
    std::vector<double> at, value;                     ///< `at` ascends
    std::shared_ptr<const ScatteredValues> scattered;  ///< instead of these
    bool faulty = false;                               ///< stands in for one that cannot be read: 1, of any arguments
    [[nodiscard]] double operator()(double x) const;
};

/// A formula as a study gives it. `text` has every study variable already replaced by its value or formula.
struct Formula {
    std::string source;  ///< as written
    std::string text;    ///< ready to be evaluated
    Where where;
    std::optional<double> constant;                         ///< the value if it depends on no place
    std::shared_ptr<const std::vector<ValueTable>> tables;  ///< that it may call
};

/// A place for which a formula is evaluated: position, outward normal (zero inside the part), and the origin
/// of the polar coordinates r and theta, which in space run round the axis through it along z.
template <int D>
struct FormulaPlaceIn {
    Vec<D> position;
    Vec<D> normal;
    Vec<D> about;
};
using FormulaPlace = FormulaPlaceIn<2>;

/// A formula made ready for many evaluations. The variables are x, y, r, theta (polar about a given origin, radians)
/// and nx, ny (outward normal), in space z and nz too. Not to be shared between threads. Uses muParser.
class FormulaEvaluator {
  public:
    /// Throws InputError (with the position in `file`) if the formula cannot be understood.
    FormulaEvaluator(const Formula& formula, std::string file);
    /// Any other named values instead of a place; used for quantities derived from others.
    FormulaEvaluator(const Formula& formula, std::string file, const std::vector<std::string>& names);
    ~FormulaEvaluator();
    FormulaEvaluator(FormulaEvaluator&&) noexcept;
    FormulaEvaluator& operator=(FormulaEvaluator&&) noexcept;

    /// Throws InputError with the place if the result is not a finite number.
    double operator()(const FormulaPlace& place) const;
    /// The same of one that was made with space_names().
    double operator()(const FormulaPlaceIn<3>& place) const;
    /// Values in the order of the names given at construction; the result may be NaN.
    double with(const std::vector<double>& values) const;

  private:
    [[nodiscard]] double finite(double value, const Position& at) const;

    struct Impl;
    std::unique_ptr<Impl> impl_;
};

/// Whether formulas know a function of this name, such as sin.
bool is_function_of_formulas(const std::string& name);

/// What formulas of the temperature, such as those of material constants, call it.
inline const std::string temperature_name = "T";

/// Names that the formulas of a study may use besides its variables.
const std::vector<std::string>& place_names();
/// The same in space.
const std::vector<std::string>& space_names();

/// The identifiers in a formula that are no functions.
std::vector<std::string> identifiers(const std::string& text);

/// Replaces whole identifiers.
std::string replace_identifier(const std::string& text, const std::string& name, const std::string& by);

}  // namespace dotsift
