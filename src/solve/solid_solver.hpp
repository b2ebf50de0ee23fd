#pragma once
// Mesh of a solid and study -> the solution of every load case.

#include <memory>
#include <span>
#include <vector>

#include "solve/material/solid_law.hpp"
#include "solve/solution.hpp"
#include "solve/system/field_system.hpp"
#include "study/study.hpp"

namespace dotsift {

/// The laws of each region, by the study's materials.
SolidLaws solid_laws(const Study& study, const std::vector<std::string>& regions);

/// A guess of a load case's solution in space: at nodes and at slots, or empty.
struct SolidStart {
    std::vector<Vec3> displacement;
    std::vector<double> potential;
};

/// Solves a study on one mesh of a solid, as StudySolver does in the plane. Mesh, study and laws must outlive it.
class SolidSolver {
  public:
    /// Without `keep` no dual problem can be solved afterwards, and each system is freed when its field is found.
    SolidSolver(const SolidMesh& mesh, const Study& study, const SolidLaws& laws, bool keep);
    ~SolidSolver();
    SolidSolver(const SolidSolver&) = delete;
    SolidSolver& operator=(const SolidSolver&) = delete;

    /// Every load case; see solve_solid.
    std::vector<SolutionIn<3>> solve(const std::vector<SolidStart>& start = {});
    /// What forces at the degrees of freedom, or flows at the slots, do where everything that is prescribed is held at
    /// zero and nothing else acts; with a lift, that less what they do. After solve().
    SolutionIn<3> dual_displacement(const std::string& load_case, const std::vector<double>& force,
                                    const std::vector<double>& lift = {});
    SolutionIn<3> dual_potential(const std::string& load_case, const std::vector<double>& flow,
                                 const std::vector<double>& lift = {});
    [[nodiscard]] const SolidLaws& laws() const { return laws_; }
    /// Of the displacements of a load case; after solve().
    [[nodiscard]] const FieldProblem& displacement_problem(const std::string& load_case) const {
        return group_of(load_case).displacement_problem;
    }

  private:
    /// Load cases that share their systems: all of them, or one each where materials change with the temperature.
    struct Group {
        std::vector<CaseSpec> cases;
        FieldProblem potential_problem, displacement_problem;
        std::vector<double> stiffness_factor, conductivity_factor;  ///< at the slots; empty: 1
        std::unique_ptr<FieldSystem> potential, displacement;
    };
    void solve_potential(Group& group, std::span<const SolidStart> start, std::span<SolutionIn<3>> out) const;
    void solve_displacement(Group& group, std::span<const SolidStart> start, std::span<SolutionIn<3>> out) const;
    [[nodiscard]] Group& group_of(const std::string& load_case) const;

    const SolidMesh& mesh_;
    const Study& study_;
    const SolidLaws& laws_;
    bool keep_;
    std::vector<std::unique_ptr<Group>> groups_;
};

/// Solves for the potential, for the displacement, or for both one after the other, all cases with one factorisation
/// each; with loads, reactions and balance. Throws SolveError and InputError as solve_cases does in the plane.
std::vector<SolutionIn<3>> solve_solid(const SolidMesh& mesh, const Study& study, const SolidLaws& laws,
                                       const std::vector<SolidStart>& start = {});

}  // namespace dotsift
