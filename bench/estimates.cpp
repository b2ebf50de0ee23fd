// Effectivity of the error estimates on problems whose stress is known: dotsift-estimates [WORD [LEVELS]]
// Each level shows its elements, the true error, and three estimates over it: recovery, residuals, and the bound.

#include <fmt/format.h>

#include <cmath>
#include <optional>
#include <string>

#include "known_problems.hpp"
#include "mesh/plane/generate.hpp"
#include "part/checks/check_study.hpp"
#include "quality/make_mesh.hpp"
#include "recovery/bound/admissible.hpp"
#include "recovery/estimate.hpp"
#include "recovery/fit/singular_fit.hpp"
#include "recovery/indicators.hpp"
#include "recovery/recover.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"
#include "verification/norms.hpp"

using namespace dotsift;
using namespace dotsift::bench;

int main(int argc, char** argv) {
    const std::string only = argc > 1 ? argv[1] : "";
    const int levels = argc > 2 ? std::atoi(argv[2]) : 4;
    constexpr std::array kinds{std::pair{"T3", "[mesh]\nelements = \"triangles\"\norder = 1\n"},
                               std::pair{"T6", "[mesh]\nelements = \"triangles\"\norder = 2\n"},
                               std::pair{"Q4", "[mesh]\nelements = \"quadrilaterals\"\norder = 1\n"},
                               std::pair{"Q9", "[mesh]\nelements = \"quadrilaterals\"\norder = 2\n"}};
    for (const auto& p : problems()) {
        if (p.name.find(only) == std::string::npos) continue;
        for (const auto& [kind, mesh_keys] : kinds) {
            Problems faults("bench");
            const auto both = open_study(
                "bench",
                p.text + p.size + mesh_keys + "[quantity.e]\nof = \"" + (p.conduction ? "potential" : "ux") + "\"\n",
                faults);
            faults.throw_if_any();
            const Sizing base = sizing_of(both.part, both.study.sizes, ".");
            fmt::print("{:32} {}", p.name, kind);
            for (int k = 0; k < levels; ++k) {
                MeshingLog log;
                const Mesh mesh = make_mesh(both.study, both.part, base.scaled(std::pow(0.5, k)), log).mesh;
                const Laws laws = laws_of(both.study, mesh.region_names);
                const Solution s = solve_study(mesh, both.study);
                double estimated, truth, norm;
                const auto fits = singular_fits(mesh, laws, s, singular_points(both.part, both.study),
                                                same_point_share * both.part.box.diagonal());
                const bool bounded = why_no_bound(both.study, mesh, laws).empty();
                std::optional<ErrorMap> bound;
                ErrorMap residual;
                if (p.conduction) {
                    const ErrorMap map =
                        estimate_flux_error(mesh, laws, s, recover_flux(mesh, both.study, laws, s), fits);
                    residual = residual_flux_error(mesh, both.study, laws, s);
                    if (bounded) bound = bound_flux_error(mesh, both.study, laws, s);
                    const ErrorNorms n = error_norms(mesh, both.study, laws, s, p.known);
                    estimated = std::sqrt(map.error2);
                    norm = std::sqrt(map.energy2 / (1 - n.energy * n.energy));
                    truth = n.energy * norm;
                } else {
                    const ErrorMap map = estimate_error(mesh, laws, s, recover_stress(mesh, both.study, laws, s), fits);
                    residual = residual_stress_error(mesh, both.study, laws, s);
                    if (bounded) bound = bound_stress_error(mesh, both.study, laws, s);
                    const TrueError t = true_error(mesh, laws, s, *both.study.exact_stress, "bench");
                    estimated = std::sqrt(map.error2);
                    truth = std::sqrt(t.error2);
                    norm = std::sqrt(t.energy2);
                }
                fmt::print("  {:6} {:7.3f} % {:.3f} {:.2f} {:.3f}", mesh.element_count(), 100 * truth / norm,
                           estimated / truth, std::sqrt(residual.error2) / truth,
                           bound ? std::sqrt(bound->error2) / truth : NAN);
            }
            fmt::print("\n");
        }
    }
    return 0;
}
