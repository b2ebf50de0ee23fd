#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <fstream>

#include "base/errors.hpp"
#include "solve/acting/loads.hpp"
#include "solve/field_problem.hpp"
#include "solve/system/multigrid.hpp"
#include "support/folder.hpp"
#include "support/solved.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

/// Both solvers on one study; the largest difference over the largest value, and the steps of the iteration.
std::pair<double, int> both_ways(const std::string& body) {
    Problems problems("test.toml");
    const StudyAndPart opened = open_study("test.toml", "format = 1\n" + body, problems);
    INFO(problems.text());
    REQUIRE(problems.empty());
    const Study& study = opened.study;
    const Mesh mesh = generate(opened.part, sizing_of(opened.part, study.sizes, "."), 100000, study.mesh);
    const auto cases = study.cases_to_solve();
    const Laws laws = laws_of(study, mesh.region_names);
    const bool elastic = study.elastic();
    const PlaneProblem problem =
        elastic ? displacement_problem(mesh, study, laws, cases) : potential_problem(mesh, study, laws, cases);
    const auto linear = problem.on_corners();
    const Assembly assembly = problem.assembly();
    const auto loads = elastic ? nodal_forces(mesh, study, laws, cases) : nodal_flows(mesh, study, laws, cases);
    const System system = assemble(assembly, loads.force);
    const auto direct = make_direct_solver();
    direct->factor(system.matrix, system.order());
    CHECK(direct->report().factor_bytes > 0);
    const auto x = direct->solve(system.right_side[0]);
    const auto iterative =
        make_multigrid_solver(coarse_space(assembly, linear->problem.assembly()), system.first_unknown);
    iterative->factor(system.matrix, {});
    const auto y = iterative->solve(system.right_side[0]);
    double gap = 0, largest = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        gap = std::max(gap, std::fabs(x[i] - y[i]));
        largest = std::max(largest, std::fabs(x[i]));
    }
    return {gap / largest, iterative->report().steps};
}

const std::string two_parts =
    "[part]\nname = \"a\"\nPLANE[[part.shape]]\nadd = \"rectangle\"\ncorner = [1, 0]\nsize = [2, 1]\nnames = { left = "
    "\"left\", bottom = \"bottom\", top = \"top\" }\n[[part.shape]]\nadd = \"rectangle\"\ncorner = [3, 0]\nsize = [2, "
    "1]\nregion = \"b\"\nnames = { right = \"right\", bottom = \"bottom\", top = \"top\" }\n[[part.shape]]\ncut = "
    "\"circle\"\ncentre = [2, 0.5]\nradius = 0.2\nname = \"hole\"\n";

std::string parts(const std::string& plane) {
    std::string text = two_parts;
    return text.replace(text.find("PLANE"), 5, "plane = \"" + plane + "\"\n");
}

}  // namespace

TEST_SUITE_BEGIN("solve");

TEST_CASE("p-multigrid and the direct solver agree, whatever ties and springs there are") {
    const std::string elastic =
        "[material.a]\non = \"a\"\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[material.b]\non = "
        "\"b\"\nyoungs_modulus = "
        "90\npoissons_ratio = 0.1\n[quantity.e]\nof = \"strain_energy\"\n[load.p]\non = \"hole\"\npressure = "
        "3\n[load.t]\non = \"top\"\ntraction = [1, \"x\"]\n";
    const std::string size = "[size]\nglobal = 0.12\n";
    for (const std::string shape : {"triangles", "quadrilaterals"}) {
        const std::string mesh = "[mesh]\nelements = \"" + shape + "\"\n";
        for (const std::string plane : {"stress", "generalised_strain"}) {
            const auto [gap, steps] = both_ways(
                parts(plane) + elastic + size + mesh +
                "[support.left]\non = \"left\"\nhold = \"fixed\"\n[support.bed]\non = \"bottom\"\nnormal_stiffness = "
                "40\n[remote.r]\nat = [6, 2]\non = \"right\"\nforce = [1, 2]\nmoment = 3\n");
            CAPTURE(shape);
            CAPTURE(plane);
            CHECK(gap < 1e-8);
            CHECK(steps < 30);
        }
        const auto [gap, steps] =
            both_ways(parts("axisymmetric") + elastic + size + mesh + "[support.bed]\non = \"bottom\"\nuy = 0\n");
        CHECK(gap < 1e-8);
        CHECK(steps < 30);
        const auto [heat_gap, heat_steps] =
            both_ways(parts("stress") +
                      "[material.a]\non = \"a\"\nconductivity = 3\n[material.b]\non = \"b\"\nconductivity = "
                      "0.2\n[quantity.e]\nof = "
                      "\"potential\"\n[support.left]\non = \"left\"\npotential = 5\n[load.air]\non = "
                      "\"right\"\ntransfer = 2\nambient = "
                      "1\n[resistance.j]\non = \"a_and_b\"\nvalue = 0.4\n[load.s]\nsource = \"x\"\n" +
                      size + mesh);
        CHECK(heat_gap < 1e-8);
        CHECK(heat_steps < 30);
    }
}

TEST_CASE("equations between degrees of freedom: expressions of expressions, repetitions, contradictions") {
    const auto nothing = [](std::size_t, std::size_t) { FAIL("no contradiction here"); };
    // x0 = x1 + 1, x1 = 2 x2, x0 - 2 x2 = 1 again
    const std::vector<ConstraintRow> rows{
        {{{0, 1}, {1, -1}}, {1}, 0}, {{{1, 1}, {2, -2}}, {0}, 1}, {{{0, 1}, {2, -2}}, {1}, 2}};
    const Constraints c = eliminate(4, 1, rows, nothing);
    CHECK(c.unknowns == 2);
    const auto all = c.expand(std::vector<double>{3, 7}, 0);
    CHECK(all[2] == 3);
    CHECK(all[1] == doctest::Approx(6));
    CHECK(all[0] == doctest::Approx(7));
    CHECK(all[3] == 7);
    auto wrong = rows;
    wrong[2].value = {2};
    std::vector<std::size_t> told;
    (void)eliminate(4, 1, wrong, [&](std::size_t row, std::size_t earlier) { told = {row, earlier}; });
    REQUIRE(told.size() == 2);
    CHECK(told[0] == 2);
    CHECK(told[1] < 2);
}

TEST_CASE("pieces of one colour share no node, and every element is in one piece") {
    const auto s = solve_cases_of(
        "[part]\n[[part.shape]]\nadd = \"rectangle\"\nsize = [1, 1]\nnames = { left = \"l\", right = \"r\" "
        "}\n[material.m]\nconductivity = 1\n[support.a]\non = \"l\"\npotential = 0\n[load.q]\non = \"r\"\nflux = "
        "1\n[size]\nglobal = 0.02\n[quantity.t]\nof = \"potential\"\n");
    const auto pieces = coloured_pieces(s.mesh, s.mesh.nodes.size());
    CHECK(pieces.colours.size() >= 2);
    std::vector<int> seen(s.mesh.element_count(), 0);
    for (const auto& colour : pieces.colours) {
        std::vector<int> owner(s.mesh.nodes.size(), -1);
        int piece = 0;
        bool apart = true;
        for (const auto& p : colour) {
            for (std::size_t e = p.begin; e < p.end; ++e) {
                ++seen[e];
                for (const auto n : s.mesh.element(e)) {
                    int& o = owner[static_cast<std::size_t>(n)];
                    apart = apart && (o < 0 || o == piece);
                    o = piece;
                }
            }
            ++piece;
        }
        CHECK(apart);
    }
    CHECK(std::all_of(seen.begin(), seen.end(), [](int n) { return n == 1; }));
}

TEST_CASE("memory is what the machine has left, or a container that holds the process") {
    const Folder folder;
    const auto write = [&](const std::string& file, const std::string& text) {
        std::filesystem::create_directories((folder.path / file).parent_path());
        std::ofstream(folder.path / file) << text;
    };
    CHECK(std::isinf(available_memory(folder.path)));
    write("proc/meminfo", "MemTotal:  9000 kB\nMemFree: 10 kB\nMemAvailable:   5000 kB\n");
    CHECK(available_memory(folder.path) == 5000.0 * 1024);
    // The newer groups: the tightest of those round the process counts, files that may be dropped do not.
    write("proc/self/cgroup", "0::/outer/inner\n");
    write("sys/fs/cgroup/outer/inner/memory.max", "max\n");
    write("sys/fs/cgroup/outer/inner/memory.current", "700000\n");
    CHECK(available_memory(folder.path) == 5000.0 * 1024);
    write("sys/fs/cgroup/outer/memory.max", "2000000\n");
    write("sys/fs/cgroup/outer/memory.current", "900000\n");
    CHECK(available_memory(folder.path) == 1100000);
    write("sys/fs/cgroup/outer/memory.stat", "anon 500\ninactive_file_more 7\ninactive_file 300000\n");
    CHECK(available_memory(folder.path) == 1400000);
    write("sys/fs/cgroup/outer/memory.current", "2600000\n");
    CHECK(available_memory(folder.path) == 0);
    // The older ones, beside others.
    write("proc/self/cgroup", "9:name=systemd:/\n4:cpu,memory:/box\n0::/\nnonsense\n");
    write("sys/fs/cgroup/memory/box/memory.limit_in_bytes", "9223372036854771712\n");
    write("sys/fs/cgroup/memory/box/memory.usage_in_bytes", "123\n");
    CHECK(available_memory(folder.path) == 5000.0 * 1024);
    write("sys/fs/cgroup/memory/box/memory.limit_in_bytes", "1000000\n");
    write("sys/fs/cgroup/memory/box/memory.stat", "total_inactive_file 23\n");
    CHECK(available_memory(folder.path) == 1000000 - 123 + 23);
}

TEST_SUITE_END();
