// Assembly, both solvers and recovery on a cube of tetrahedra with 10 nodes: dotsift-solid-speed UNKNOWNS...
// The direct solver is tried below 120,000 unknowns. Run under `taskset -c 0` for one thread.

#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <thread>

#include "recovery/estimate.hpp"
#include "solve/solid_problem.hpp"
#include "solve/system/linear_solver.hpp"
#include "solve/system/multigrid.hpp"
#include "support/cubes.hpp"

namespace {

using namespace dotsift;

constexpr int direct_below = 120'000;

double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// Held at the bottom, drawn at the top.
std::vector<ConstraintRow> held_below(const SolidMesh& mesh) {
    std::vector<ConstraintRow> rows;
    for (std::size_t n = 0; n < mesh.nodes.size(); ++n)
        for (std::int32_t c = 0; c < 3 && mesh.nodes[n][2] == 0; ++c)
            rows.push_back({{{static_cast<std::int32_t>(n) * 3 + c, 1.0}}, {0}, 0});
    return rows;
}

void tell(const char* name, const SolverReport& r, double before) {
    fmt::print(
        "  {}: {:.2f} s in all; before {:.2f}, factor {:.2f} (coarse {:.2f}), solve {:.2f} in {} steps; {:.0f} MB; "
        "residual {:.1e}\n",
        name, before + r.factor_seconds + r.solve_seconds, before, r.factor_seconds, r.coarse_seconds, r.solve_seconds,
        r.steps, r.factor_bytes / 1e6, r.residual);
}

void measure(double unknowns) {
    const int cells = std::max(1, static_cast<int>(std::lround((std::cbrt(unknowns / 3) - 1) / 2)));
    // Shaken, so that no two elements are alike.
    const auto shaken = [](const Vec3& p) {
        const double inside = p[0] * (1 - p[0]) * p[1] * (1 - p[1]) * p[2] * (1 - p[2]) > 1e-9 ? 0.15 : 0.0;
        return p + Vec3{{std::sin(171 * p[0] + 317 * p[1]), std::sin(119 * p[1] + 233 * p[2]),
                         std::sin(97 * p[2] + 211 * p[0])}} *
                       (inside * 0.5 / std::cbrt(1e4));
    };
    const SolidMesh mesh = test::cut_cube(test::CubeCut::tetrahedra, cells, 2, shaken);
    MaterialSpec material;
    material.youngs_modulus = 70000;
    material.poissons_ratio = 0.3;
    const SolidLaws laws{{solid_law(material)}};
    const FieldProblem problem = solid_displacement(mesh, laws, held_below);
    const auto force = solid_body_forces(mesh, problem.layout, [](const Vec3&, std::span<double> f) {
        f[0] = 0.3;
        f[1] = 0;
        f[2] = 1;
    });
    const Assembly assembly = problem.assembly();
    System system = assemble(assembly, {force});
    for (int k = 0; k < 2; ++k) {
        System again = assemble(assembly, {force});
        again.numeric_seconds = std::min(again.numeric_seconds, system.numeric_seconds);
        again.pattern_seconds = std::min(again.pattern_seconds, system.pattern_seconds);
        system = std::move(again);
    }
    const auto elements = static_cast<double>(mesh.element_count());
    fmt::print("{} unknowns, {} tetrahedra with 10 nodes, {} entries, {} thread(s)\n", system.matrix.size,
               mesh.element_count(), system.matrix.row.size(), std::thread::hardware_concurrency());
    fmt::print("  assembly, ns an element: values {:.0f}, pattern {:.0f}\n", 1e9 * system.numeric_seconds / elements,
               1e9 * system.pattern_seconds / elements);
    const auto start = std::chrono::steady_clock::now();
    const auto linear = problem.on_corners();
    const auto iterative =
        make_multigrid_solver(coarse_space(assembly, linear->problem.assembly()), system.first_unknown);
    const double set_up = seconds_since(start);
    iterative->factor(system.matrix, {});
    const auto x = iterative->solve(system.right_side[0]);
    tell("p-multigrid", iterative->report(), set_up);
    SolutionIn<3> solution;
    solution.displacement = vectors_at<3>(problem.constraints.expand(x, 0), mesh.nodes.size());
    const auto recovering = std::chrono::steady_clock::now();
    const auto recovered = recover_stress(mesh, laws, solution);
    const double recovery = seconds_since(recovering);
    const double shown = estimate_error(mesh, laws, solution, recovered).relative();
    fmt::print("  recovery: {:.2f} s, {:.1f} microseconds an element; with the error ({:.1e}) {:.2f} s\n", recovery,
               1e6 * recovery / elements, shown, seconds_since(recovering));
    if (system.matrix.size > direct_below) return;
    const auto ordering = std::chrono::steady_clock::now();
    const auto order = system.order();
    const double order_seconds = seconds_since(ordering);
    const auto direct = make_direct_solver();
    direct->factor(system.matrix, order);
    const auto y = direct->solve(system.right_side[0]);
    tell("direct", direct->report(), order_seconds);
    double apart = 0, largest = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        apart = std::max(apart, std::fabs(x[i] - y[i]));
        largest = std::max(largest, std::fabs(x[i]));
    }
    fmt::print("  they differ by {:.1e}\n", apart / largest);
}

}  // namespace

int main(int argc, char** argv) {
    for (int i = 1; i < argc; ++i) measure(std::atof(argv[i]));
    return 0;
}
