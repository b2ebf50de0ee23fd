// Time and memory of a graded triangle mesh, with qhull's qdelaunay on the same vertices as the yardstick. Both are run
// in turn `rounds` times and the shortest of each counts, since what else the machine does only ever adds.
//     dotsift-mesh-speed VERTICES...
#include <fmt/format.h>
#include <sys/resource.h>

#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>

#include "mesh/elements/shape.hpp"
#include "mesh/plane/generate.hpp"
#include "part/build.hpp"
#include "sizes/part_sizes.hpp"
#include "study/read.hpp"

namespace {

using namespace dotsift;
using Clock = std::chrono::steady_clock;

constexpr int rounds = 5;

constexpr const char* graded_plate = R"(format = 1
[units]
length = "mm"
[part]
[[part.shape]]
add = "rectangle"
size = [200, 100]
[[part.shape]]
cut = "circle"
name = "bore"
centre = [60, 50]
radius = 20
[[part.shape]]
cut = "slot"
name = "slit"
from = [120, 30]
to = [160, 70]
width = 2
[material.steel]
youngs_modulus = "210 GPa"
poissons_ratio = 0.3
[support.s]
on = "bore"
hold = "fixed"
[load.l]
on = "slit"
pressure = 1
[size]
global = 4
growth = 1.15
[size.local.bore]
on = "bore"
size = 0.8
[size.local.slit]
on = "slit"
size = 0.4
[series.s]
kind = "uniform"
[quantity.q]
of = "ux"
)";

double seconds_since(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

double peak_bytes() {
    rusage use{};
    getrusage(RUSAGE_SELF, &use);
    return 1024.0 * static_cast<double>(use.ru_maxrss);
}

}  // namespace

int main(int argc, char** argv) {
    Problems problems("plate");
    Study study = read_study("plate", graded_plate, problems);
    const Part part = build_part(study, problems).part;
    problems.throw_if_any();
    const Sizing base = sizing_of(part, study.sizes, study.path);
    MeshSpec linear;
    linear.order = 1;
    fmt::print("vertices  triangles  mesh s  µs/vertex  bytes/triangle  qdelaunay s  ratio\n");
    for (int k = 1; k < argc; ++k) {
        const double vertices = std::atof(argv[k]);
        const Sizing sizes = base.scaled(std::sqrt(estimate_elements(part, base.field, 1e9) / (2 * vertices)));
        const double before = peak_bytes();
        double meshing = INFINITY, yardstick = INFINITY;
        const auto make = [&] {
            const auto start = Clock::now();
            Mesh made = generate(part, sizes, 100'000'000, linear);
            meshing = std::min(meshing, seconds_since(start));
            return made;
        };
        const Mesh mesh = make();
        const double bytes = peak_bytes() - before;
        std::vector<char> corner(mesh.nodes.size(), 0);
        for (std::size_t e = 0; e < mesh.element_count(); ++e)
            for (std::size_t i = 0; i < 3; ++i) corner[static_cast<std::size_t>(mesh.element(e)[i])] = 1;
        std::size_t count = 0;
        for (const char c : corner) count += c != 0;
        const auto file = std::filesystem::temp_directory_path() / "dotsift-mesh-speed.txt";
        {
            std::ofstream out(file);
            out << "2\n" << count << "\n";
            for (std::size_t n = 0; n < mesh.nodes.size(); ++n)
                if (corner[n]) out << fmt::format("{:.17g} {:.17g}\n", mesh.nodes[n][0], mesh.nodes[n][1]);
        }
        for (int round = 0; round < rounds; ++round) {
            if (round > 0) make();
            const auto begin = Clock::now();
            const int status = std::system(fmt::format("qdelaunay Qt < {} > /dev/null", file.string()).c_str());
            if (status != 0) return 1;
            yardstick = std::min(yardstick, seconds_since(begin));
        }
        std::filesystem::remove(file);
        double quality = 0, least = 180, good = 0, edges = 0;
        for (std::size_t e = 0; e < mesh.element_count(); ++e) {
            const auto p = mesh.positions(e);
            const ShapeMeasures m = measure_shape(std::span(p).first(3));
            quality += m.mean_ratio / static_cast<double>(mesh.element_count());
            least = std::min(least, m.smallest_angle);
            for (std::size_t i = 0; i < 3; ++i) {
                const Vec2 &a = p[i], &b = p[(i + 1) % 3];
                const double share = distance(a, b) / sizes.field.at((a + b) * 0.5);
                edges += 1;
                good += share >= 0.7 && share <= 1.4;
            }
        }
        fmt::print("mean quality {:.4f}, least angle {:.1f}, edges {:.1f} %\n", quality, least, 100 * good / edges);
        fmt::print("{:8}  {:9}  {:6.2f}  {:9.2f}  {:14.0f}  {:11.2f}  {:.3f}\n", count, mesh.element_count(), meshing,
                   1e6 * meshing / static_cast<double>(count), bytes / static_cast<double>(mesh.element_count()),
                   yardstick, meshing / yardstick);
    }
    return 0;
}
