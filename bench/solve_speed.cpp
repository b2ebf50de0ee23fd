// Where the time of the solve stage goes, beside the sparse library's own share: dotsift-solve-speed UNKNOWNS...
// For each number of unknowns a plate with a hole, quadratic triangles: assembly in nanoseconds an element, the direct
// solver, p-multigrid, and what is left of the stage. Run under `taskset -c 0` for one thread.

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <thread>

#include "mesh/plane/generate.hpp"
#include "part/checks/check_study.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/acting/loads.hpp"
#include "solve/field_problem.hpp"
#include "solve/solve.hpp"
#include "solve/system/multigrid.hpp"

namespace {

using namespace dotsift;

double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

StudyAndPart plate(double size, bool conduction) {
    const std::string shapes = fmt::format(
        "format = 1\n[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [1, 1]\nnames = {{ left = \"left\", right = "
        "\"right\" }}\n[[part.shape]]\ncut = \"circle\"\ncentre = [0.5, 0.5]\nradius = 0.2\n[size]\nglobal = "
        "{}\nmost_elements = 10000000\n",
        size);
    const std::string physics =
        conduction ? "[material.m]\nconductivity = 1\n[support.a]\non = \"left\"\npotential = 0\n[load.q]\non = "
                     "\"right\"\nflux = 1\n"
                   : "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.a]\non = \"left\"\nhold = "
                     "\"fixed\"\n[load.q]\non = \"right\"\ntraction = [1, 0.2]\n";
    Problems problems("bench");
    StudyAndPart both = open_study(
        "bench", shapes + physics + "[quantity.q]\nof = \"" + (conduction ? "potential" : "ux") + "\"\n", problems);
    problems.throw_if_any();
    return both;
}

/// Assembled five times; the times are the shortest ones.
System best_of_five(const Assembly& assembly, const std::vector<std::vector<double>>& forces) {
    System system = assemble(assembly, forces);
    for (int k = 1; k < 5; ++k) {
        System again = assemble(assembly, forces);
        again.numeric_seconds = std::min(again.numeric_seconds, system.numeric_seconds);
        again.pattern_seconds = std::min(again.pattern_seconds, system.pattern_seconds);
        system = std::move(again);
    }
    return system;
}

void measure(double unknowns) {
    // A triangle has two unknowns of a node, and there are two nodes for each.
    const StudyAndPart both = plate(std::sqrt((1 - 0.126) / (unknowns / 4) * 2.309), false);
    const Mesh mesh = generate(both.part, sizing_of(both.part, both.study.sizes, "."), 10'000'000);
    const auto elements = static_cast<double>(mesh.element_count());
    const auto cases = both.study.cases_to_solve();
    const Laws laws = laws_of(both.study, mesh.region_names);
    const PlaneProblem problem = displacement_problem(mesh, both.study, laws, cases);
    const auto loads = nodal_forces(mesh, both.study, laws, cases);
    const Assembly assembly = problem.assembly();
    const System system = best_of_five(assembly, loads.force);
    fmt::print("{} unknowns, {} triangles with 6 nodes, {} entries, {} thread(s)\n", system.matrix.size,
               mesh.element_count(), system.matrix.row.size(), std::thread::hardware_concurrency());
    fmt::print("  assembly, ns an element      numeric {:7.0f}   pattern {:7.0f}\n",
               1e9 * system.numeric_seconds / elements, 1e9 * system.pattern_seconds / elements);
    const auto direct = make_direct_solver();
    const auto ordering = std::chrono::steady_clock::now();
    const auto order = system.order();
    const double order_seconds = seconds_since(ordering);
    direct->factor(system.matrix, order);
    const auto x = direct->solve(system.right_side[0]);
    const double library = direct->report().factor_seconds + direct->report().solve_seconds + order_seconds;
    fmt::print("  direct: order {:.2f} s, factor {:.2f} s, solve {:.2f} s; factor {:.0f} MB; residual {:.1e}\n",
               order_seconds, direct->report().factor_seconds, direct->report().solve_seconds,
               direct->report().factor_bytes / 1e6, direct->report().residual);
    const auto start = std::chrono::steady_clock::now();
    const auto linear = problem.on_corners();
    const auto iterative =
        make_multigrid_solver(coarse_space(assembly, linear->problem.assembly()), system.first_unknown);
    const double set_up = seconds_since(start);
    iterative->factor(system.matrix, {});
    const auto y = iterative->solve(system.right_side[0]);
    const auto& r = iterative->report();
    const double multigrid = set_up + r.factor_seconds + r.solve_seconds;
    double apart = 0, largest = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        apart = std::max(apart, std::fabs(x[i] - y[i]));
        largest = std::max(largest, std::fabs(x[i]));
    }
    fmt::print(
        "  p-multigrid: coarse matrix {:.2f} s, factor {:.2f} s (coarse {:.2f}), solve {:.2f} s in {} steps; {:.0f} "
        "MB; differs by "
        "{:.1e}\n",
        set_up, r.factor_seconds, r.coarse_seconds, r.solve_seconds, r.steps, r.factor_bytes / 1e6, apart / largest);
    fmt::print("  p-multigrid over direct      {:.2f}\n", multigrid / library);
    const auto whole = std::chrono::steady_clock::now();
    const Solution s = solve_study(mesh, both.study);
    const double stage = seconds_since(whole);
    fmt::print("  solve stage {:.2f} s by {}\n", stage, s.solver.method);
    // The stage with the direct solver: what it does besides is the same.
    const double besides = stage - s.solver.factor_seconds - s.solver.solve_seconds -
                           (s.solver.steps > 0 ? set_up : 0.0) - s.solver.order_seconds;
    fmt::print("  besides the library {:.2f} s: {:.2f} of its {:.2f} s\n\n", besides, besides / library, library);
}

void measure_conduction(double unknowns) {
    const StudyAndPart both = plate(std::sqrt((1 - 0.126) / (unknowns / 2) * 2.309), true);
    const Mesh mesh = generate(both.part, sizing_of(both.part, both.study.sizes, "."), 10'000'000);
    const Laws laws = laws_of(both.study, mesh.region_names);
    const auto cases = both.study.cases_to_solve();
    const PlaneProblem problem = potential_problem(mesh, both.study, laws, cases);
    const System system = best_of_five(problem.assembly(), nodal_flows(mesh, both.study, laws, cases).force);
    const auto elements = static_cast<double>(mesh.element_count());
    fmt::print("{} unknowns of a potential\n  assembly, ns an element      numeric {:7.0f}   pattern {:7.0f}\n\n",
               system.matrix.size, 1e9 * system.numeric_seconds / elements, 1e9 * system.pattern_seconds / elements);
}

}  // namespace

int main(int argc, char** argv) {
    for (int i = 1; i < argc; ++i) {
        measure(std::atof(argv[i]));
        measure_conduction(std::atof(argv[i]) / 2);
    }
    return 0;
}
