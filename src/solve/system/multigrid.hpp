#pragma once
// Conjugate gradients for quadratic elements, preconditioned by the linear elements on the same corners.

#include <memory>

#include "mesh/mesh.hpp"
#include "solve/system/assembly.hpp"
#include "solve/system/linear_solver.hpp"

namespace dotsift {

/// The system of the linear elements, and how its unknowns make those of the quadratic ones.
struct CoarseSpace {
    SymmetricMatrix matrix;
    std::vector<std::int32_t> order;  ///< fill-reducing
    std::vector<std::int64_t> first;  ///< of each fine unknown's terms; one more
    std::vector<std::int32_t> unknown;
    std::vector<double> weight;
};

/// The mesh of linear elements with the same corners.
Mesh linear_mesh(const Mesh& mesh);
SolidMesh linear_mesh(const SolidMesh& mesh);

/// Whether all elements are quadratic, and none is so flat that the iteration would stall.
bool suits_multigrid(const Mesh& mesh);
bool suits_multigrid(const SolidMesh& mesh);

/// `linear` is the same problem on the linear mesh; its element matrices are not asked for: they come from those of
/// `fine`, restricted to functions that are linear (Galerkin product).
CoarseSpace coarse_space(const Assembly& fine, const Assembly& linear);

/// p-multigrid (Helenbrook 2001, SIAM J. Sci. Comput. 23; Adams, Brezina, Hu & Tuminaro 2003, J. Comput. Phys. 188, for
/// the Chebyshev smoother): each step smooths twice with the blocks of the nodes on the diagonal, corrects on the
/// linear elements, whose matrix is factored, and smooths twice. The result does not depend on the number of threads.
/// solve() throws SolveError if the iteration does not come to its end; the caller then factors the matrix itself.
std::unique_ptr<LinearSolver> make_multigrid_solver(CoarseSpace coarse, std::vector<std::int32_t> first_unknown);

}  // namespace dotsift
