#pragma once
// Mesh and study -> the solution of every load case.

#include <memory>
#include <span>
#include <string>
#include <vector>

#include "solve/solution.hpp"
#include "solve/system/field_system.hpp"
#include "study/study.hpp"

namespace dotsift {

/// A guess of a load case's solution: at nodes and at slots, or empty.
struct StartFields {
    std::vector<Vec2> displacement;
    std::vector<double> potential;
};

/// Solves a study on one mesh, both of which must outlive it, and keeps the systems for further right sides.
class StudySolver {
  public:
    /// Without `keep` no dual problem can be solved afterwards, and each system is freed when its field is found.
    StudySolver(const Mesh& mesh, const Study& study, bool keep = true);
    ~StudySolver();
    StudySolver(const StudySolver&) = delete;
    StudySolver& operator=(const StudySolver&) = delete;

    /// Every load case. See solve_cases. `start` is a guess of each, or empty.
    std::vector<Solution> solve(const std::vector<StartFields>& start = {});
    /// What forces at the degrees of freedom (see displacement_layout) or flows at the slots do in a load case, where
    /// everything that is prescribed is held at zero and nothing else acts. With a lift, that less what they do. After
    /// solve(). Of a conductivity that changes with the temperature the derivative is left out.
    Solution dual_displacement(const std::string& load_case, const std::vector<double>& force,
                               const std::vector<double>& lift = {});
    Solution dual_potential(const std::string& load_case, const std::vector<double>& flow,
                            const std::vector<double>& lift = {});
    [[nodiscard]] const Laws& laws() const { return laws_; }

  private:
    /// Load cases that share their systems: all of them, or one each where materials change with the temperature.
    struct Group {
        std::vector<CaseSpec> cases;
        PlaneProblem potential_problem, displacement_problem;
        std::vector<double> stiffness_factor, conductivity_factor;  ///< at the slots; empty: 1
        std::unique_ptr<FieldSystem> potential, displacement;
    };
    void solve_potential(Group& group, std::span<const StartFields> start, std::span<Solution> out) const;
    /// Of a conductivity that changes with the temperature, of one case.
    void iterate_potential(Group& group, const std::vector<std::vector<double>>& flow,
                           const std::vector<double>& start) const;
    void solve_displacement(Group& group, std::span<const StartFields> start, std::span<Solution> out) const;
    /// From the values of all degrees of freedom.
    void take_displacement(const PlaneProblem& problem, const std::vector<double>& values, Solution& out) const;
    [[nodiscard]] Group& group_of(const std::string& load_case);

    const Mesh& mesh_;
    const Study& study_;
    bool keep_;
    Laws laws_;
    std::vector<std::unique_ptr<Group>> groups_;
};

/// Solves for the potential, for the displacement, or for both one after the other, all cases with one factorisation
/// each, or each with its own where materials change with the temperature. Throws SolveError and InputError
/// (contradicting supports, formulas that give no number, singular systems).
///
///     std::vector<Solution> cases = solve_cases(mesh, study);
std::vector<Solution> solve_cases(const Mesh& mesh, const Study& study);

/// The first case, or the only one.
Solution solve_study(const Mesh& mesh, const Study& study);

}  // namespace dotsift
