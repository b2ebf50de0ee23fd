// Figures of merit of the meshes of a set of outlines.
//     dotsift-mesh-set DIRECTORY [triangles|mostly_quadrilaterals|quadrilaterals]
// Exit status 1 if one misses its limit.

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <filesystem>
#include <numbers>
#include <span>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "mesh/plane/generate.hpp"
#include "part/checks/check_study.hpp"
#include "sizes/part_sizes.hpp"
#include "support/meshes.hpp"

namespace {

using namespace dotsift;
using namespace dotsift::test;

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) {
        fmt::print("usage: dotsift-mesh-set DIRECTORY [triangles|mostly_quadrilaterals|quadrilaterals]\n");
        return 2;
    }
    const std::vector<std::string> names{"triangles", "mostly_quadrilaterals", "quadrilaterals"};
    std::vector<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(argv[1]))
        if (entry.path().extension() == ".toml") files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    bool all_good = true;
    for (std::size_t shape = 0; shape < names.size(); ++shape) {
        if (argc > 2 && names[shape] != argv[2]) continue;
        fmt::print("\n{}\n{:26} {:>8} {:>7} {:>7} {:>7} {:>9} {:>8} {:>8} {:>7}\n", names[shape], "outline", "elements",
                   "angle", "quality", "edges", "quad area", "worst J", "mean J", "ms");
        for (const auto& file : files) {
            Problems problems(file.string());
            const StudyAndPart opened = open_study(file, read_file(file), problems);
            problems.throw_if_any();
            MeshSpec elements;
            elements.shape = static_cast<ElementShape>(shape);
            const Sizing sizing = sizing_of(opened.part, opened.study.sizes, file);
            const auto start = std::chrono::steady_clock::now();
            std::string fault;
            MeshFigures f;
            try {
                const Mesh mesh = generate(opened.part, sizing, 1'000'000, elements);
                f = figures_of(opened.part, mesh, sizing.field);
                fault = fault_of(opened.part, mesh);
            } catch (const Error& e) {
                fault = e.what();
            }
            const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
            const bool good = fault.empty() && good_enough(f, static_cast<int>(shape));
            all_good = all_good && good;
            fmt::print("{:26} {:8} {:7.1f} {:7.3f} {:6.1f}% {:8.1f}% {:8.3f} {:8.3f} {:7.0f} {}{}\n",
                       file.stem().string(), f.elements, f.least_angle, f.mean_quality, 100 * f.edges,
                       100 * f.quad_area, f.worst_jacobian, f.mean_jacobian, 1e3 * seconds, good ? "" : "<-- ", fault);
        }
    }
    if (argc > 2) return all_good ? 0 : 1;
    fmt::print("\nlayers along every outer edge\n{:26} {:>8} {:>8} {:>10} {:>9} {:>9}\n", "outline", "elements", "tops",
               "reported", "within", "worst");
    for (const auto& file : files) {
        Problems problems(file.string());
        const StudyAndPart opened = open_study(file, read_file(file), problems);
        problems.throw_if_any();
        Sizing sizing = sizing_of(opened.part, opened.study.sizes, file);
        sizing.layers = layers_everywhere(opened.part, sizing.field);
        MeshingLog log;
        LayerFigures f;
        std::string fault;
        std::size_t elements = 0;
        try {
            const Mesh mesh = generate(opened.part, sizing, 1'000'000, {}, &log);
            elements = mesh.element_count();
            f = layer_figures_of(mesh, sizing.layers, log.thinned);
            fault = fault_of(opened.part, mesh);
        } catch (const Error& e) {
            fault = e.what();
        }
        const bool good = fault.empty() && f.within >= least_layer_share;
        all_good = all_good && good;
        fmt::print("{:26} {:8} {:8} {:10} {:8.2f}% {:8.2f}% {}{}\n", file.stem().string(), elements, f.nodes,
                   f.reported, 100 * f.within, 100 * f.worst, good ? "" : "<-- ", fault);
    }
    return all_good ? 0 : 1;
}
