// What it is worth to begin the iteration with the fields of the mesh before: dotsift-start-vectors
// Steps with a start of zero and with the carried one, on meshes of ever smaller sizes.

#include <fmt/format.h>

#include <string>

#include "known_problems.hpp"
#include "part/checks/check_study.hpp"
#include "quality/make_mesh.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/carry_over.hpp"
#include "solve/solve.hpp"

int main() {
    using namespace dotsift;
    for (const auto& p : bench::problems()) {
        if (p.name != "plate with a hole" && p.name != "L-shape" && p.name != "two rings, stiff one inside") continue;
        Problems problems("bench");
        std::string text = p.text;
        if (p.size.size() > 0 && text.find("[size]") == std::string::npos) text += p.size;
        const StudyAndPart both =
            open_study("bench", text + "[solver]\nmethod = \"iterative\"\n[mesh]\norder = 2\n", problems);
        problems.throw_if_any();
        for (const double ratio : {1.5, 2.0}) {
            Mesh before;
            Solution last;
            double factor = 0.25;
            for (int level = 0; level < 3; ++level, factor /= ratio) {
                MeshingLog log;
                const Mesh mesh =
                    make_mesh(both.study, both.part, sizing_of(both.part, both.study.sizes, ".").scaled(factor), log)
                        .mesh;
                StudySolver solver(mesh, both.study);
                const Solution from_zero = solver.solve().front();
                if (level > 0) {
                    StartFields start;
                    start.displacement = carry_nodes(before, last.displacement, mesh);
                    const Solution carried = solver.solve({start}).front();
                    fmt::print("{:30} ratio {:3}  {:8} unknowns  steps {:3} from zero, {:3} from the mesh before\n",
                               p.name, ratio, from_zero.unknowns, from_zero.solver.steps, carried.solver.steps);
                }
                before = mesh;
                last = from_zero;
            }
        }
    }
    return 0;
}
