#pragma once
// Mesh and study -> the solution of every load case.

#include <memory>
#include <vector>

#include "solve/field_system.hpp"
#include "solve/solution.hpp"
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
    /// What forces at the degrees of freedom (see displacement_layout) or flows at the slots do, where everything that
    /// is prescribed is held at zero and nothing else acts. With a lift, that less what they do. After solve().
    Solution dual_displacement(const std::vector<double>& force, const std::vector<double>& lift = {});
    Solution dual_potential(const std::vector<double>& flow, const std::vector<double>& lift = {});
    [[nodiscard]] const Laws& laws() const { return laws_; }

  private:
    void solve_potential(const std::vector<StartFields>& start, std::vector<Solution>& out);
    void solve_displacement(const std::vector<StartFields>& start, std::vector<Solution>& out);
    /// From the values of all degrees of freedom.
    void take_displacement(const std::vector<double>& values, Solution& out) const;

    const Mesh& mesh_;
    const Study& study_;
    bool keep_;
    std::vector<CaseSpec> cases_;
    Laws laws_;
    FieldProblem potential_problem_, displacement_problem_;
    std::unique_ptr<FieldSystem> potential_, displacement_;
};

/// Solves for the potential, for the displacement, or for both one after the other, all cases with one factorisation
/// each. Throws SolveError and InputError (contradicting supports, formulas that give no number, singular systems).
///
///     std::vector<Solution> cases = solve_cases(mesh, study);
std::vector<Solution> solve_cases(const Mesh& mesh, const Study& study);

/// The first case, or the only one.
Solution solve_study(const Mesh& mesh, const Study& study);

}  // namespace dotsift
