#pragma once
// Solutions in closed form, and what every quantity of a study is in them.

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift::bench {

/// Components as formulas of the place, by their names in study files (ux, sxx, potential, flux_x, ...), and further
/// names that these use.
using FieldFormulas = std::vector<std::pair<std::string, std::string>>;

/// Kolosov's potentials of plane elasticity: phi = sum of c z^n, psi the same, with complex factors (Muskhelishvili
/// 1953, Some Basic Problems of the Mathematical Theory of Elasticity, par. 32).
struct PowerTerm {
    double re = 0, im = 0, power = 1;
};
struct Kolosov {
    double youngs_modulus = 1000, poissons_ratio = 0.3;
    bool plane_strain = false;
    std::vector<PowerTerm> phi, psi;
    double exp_factor = 0, exp_rate = 0;  ///< and exp_factor * exp(exp_rate z) in phi
    [[nodiscard]] FieldFormulas formulas() const;
};

/// The fields inside r < radius from the first, outside from the second.
FieldFormulas inside_outside(double radius, const FieldFormulas& inner, const FieldFormulas& outer);

/// u = gradient of a harmonic function of which the second derivatives are given: no volume changes, so that the stress
/// is 2 G times these.
/// What quantities are in a closed form.
class ExactField {
  public:
    ExactField(const FieldFormulas& formulas, const Study& study, const Part& part);
    /// Nothing where the closed form does not tell.
    [[nodiscard]] std::optional<double> value(const QuantitySpec& quantity) const;

  private:
    [[nodiscard]] std::optional<double> at(Field field, const Vec2& p, const Vec2& about) const;
    [[nodiscard]] std::optional<double> component(const std::string& name, const Vec2& p) const;
    [[nodiscard]] std::optional<double> over_boundary(const QuantitySpec& q) const;
    [[nodiscard]] std::optional<double> along_path(const QuantitySpec& q) const;
    [[nodiscard]] std::optional<double> energy() const;
    [[nodiscard]] double depth_at(const Vec2& p) const;
    [[nodiscard]] std::optional<double> reaction(const QuantitySpec& q) const;

    const Study& study_;
    const Part& part_;
    std::map<std::string, FormulaEvaluator> components_;
};

}  // namespace dotsift::bench
