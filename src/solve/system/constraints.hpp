#pragma once
// Linear equations between degrees of freedom, and what is left to be solved for.

#include <cstdint>
#include <functional>
#include <span>
#include <utility>
#include <vector>

namespace dotsift {

/// Sum over coefficient * degree of freedom = value, in every load case.
struct ConstraintRow {
    std::vector<std::pair<std::int32_t, double>> terms;  ///< coefficients of the order of 1; the first is eliminated
                                                         ///< where it can be
    std::vector<double> value;                           ///< of each case
    int source = 0;                                      ///< whatever the caller numbers its supports and ties by
};

/// Every degree of freedom in terms of the unknowns that are left: itself one of them, or an expression of them.
class Constraints {
  public:
    std::int32_t dofs = 0, unknowns = 0;
    std::size_t cases = 1;

    /// The unknown that a degree of freedom is, or -1 if it is an expression.
    [[nodiscard]] std::int32_t unknown_of(std::int32_t dof) const {
        const auto u = place_[static_cast<std::size_t>(dof)];
        return u >= 0 ? u : -1;
    }
    /// Calls act(unknown, coefficient) for each term.
    template <class Act>
    void each_term(std::int32_t dof, Act act) const {
        const auto place = place_[static_cast<std::size_t>(dof)];
        if (place >= 0) {
            act(place, 1.0);
            return;
        }
        const auto k = static_cast<std::size_t>(~place);
        for (auto i = first_[k]; i < first_[k + 1]; ++i)
            act(terms_[static_cast<std::size_t>(i)].first, terms_[static_cast<std::size_t>(i)].second);
    }
    /// The part of a degree of freedom that is prescribed.
    [[nodiscard]] double given(std::int32_t dof, std::size_t load_case) const {
        const auto place = place_[static_cast<std::size_t>(dof)];
        return place >= 0 ? 0 : given_[static_cast<std::size_t>(~place) * cases + load_case];
    }
    [[nodiscard]] bool has_given() const { return has_given_; }
    /// Values of all degrees of freedom from those of the unknowns.
    [[nodiscard]] std::vector<double> expand(std::span<const double> unknowns, std::size_t load_case) const;
    /// The same with everything prescribed at zero.
    [[nodiscard]] std::vector<double> expand_homogeneous(std::span<const double> unknowns) const;
    /// Forces at the unknowns that do the same work as those at the degrees of freedom (the transpose of it).
    [[nodiscard]] std::vector<double> restrict_forces(std::span<const double> force) const;

  private:
    friend Constraints eliminate(std::int32_t, std::size_t, const std::vector<ConstraintRow>&,
                                 const std::function<void(std::size_t, std::size_t)>&);
    std::vector<std::int32_t> place_;  ///< unknown, or ~index of the expression
    std::vector<std::int64_t> first_;
    std::vector<std::pair<std::int32_t, double>> terms_;
    std::vector<double> given_;
    bool has_given_ = false;
};

/// Eliminates one degree of freedom a row, in their order. A row that says nothing new is dropped; where it says
/// something else than the rows before it, contradiction(row, earlier row) is called, which should throw.
Constraints eliminate(std::int32_t dofs, std::size_t cases, const std::vector<ConstraintRow>& rows,
                      const std::function<void(std::size_t, std::size_t)>& contradiction);

}  // namespace dotsift
