// How long tetrahedra of many points take: anywhere, on a lattice and on a sphere, where exact tests are asked most.
// Then a complete mesh of a bored block, graded towards its bore, beside qhull's qdelaunay on the same vertices
// (package qhull-bin), in turn three times, of which the shortest counts. usage: dotsift-tetrahedra-speed [POINTS ...]

#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <functional>
#include <random>

#include "mesh/solid/generate_solid.hpp"
#include "mesh/solid/tetrahedralisation.hpp"
#include "part/checks/check_study.hpp"
#include "sizes/part_sizes.hpp"

using namespace dotsift;

namespace {

void measure(const char* name, const std::vector<Vec3>& points) {
    const auto start = std::chrono::steady_clock::now();
    std::vector<std::int32_t> vertex;
    const auto made = tetrahedralise(points, vertex);
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    fmt::print("{:<16} {:9} points {:9} tetrahedra {:7.2f} s {:6.2f} microseconds a point\n", name, points.size(),
               made.count(), seconds, 1e6 * seconds / static_cast<double>(points.size()));
}

void measure(int count) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> in(-1, 1);
    std::vector<Vec3> anywhere, lattice, sphere;
    for (int k = 0; k < count; ++k) {
        const Vec3 p{{in(random), in(random), in(random)}};
        anywhere.push_back(p);
        sphere.push_back(p / norm(p));
    }
    const int side = static_cast<int>(std::cbrt(count));
    for (int i = 0; i < side; ++i)
        for (int j = 0; j < side; ++j)
            for (int k = 0; k < side; ++k) lattice.push_back({{0.1 * i, 0.1 * j, 0.1 * k}});
    measure("anywhere", anywhere);
    measure("lattice of 0.1", lattice);
    measure("on a sphere", sphere);
}

constexpr const char* bored_block = R"(format = 1
[[part.shape]]
add = "box"
size = [60, 40, 20]
name = "skin"
[[part.shape]]
cut = "cylinder"
from = [20, 20, -1]
to = [20, 20, 21]
radius = 8
name = "bore"
[material.m]
youngs_modulus = 1
poissons_ratio = 0.3
[support.s]
on = "skin"
hold = "fixed"
[load.l]
on = "bore"
pressure = 1
[size]
global = 4
[size.local.bore]
on = "bore"
size = 1
[series.s]
kind = "uniform"
)";

double seconds_of(const std::function<void()>& work) {
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// About so many vertices.
int beside_qdelaunay(int vertices) {
    Problems problems("block.toml");
    const auto both = open_study("block.toml", bored_block, problems);
    problems.throw_if_any();
    const auto base = sizing_of(*both.solid, both.study.sizes, "").field;
    const double tetrahedra = 5.0 * vertices;
    const auto field = base.scaled(std::cbrt(estimate_elements(*both.solid, base, 1e12) / tetrahedra));
    SolidMesh mesh;
    double meshing = INFINITY, yardstick = INFINITY;
    const auto file = std::filesystem::temp_directory_path() / "dotsift-tetrahedra-speed.txt";
    for (int round = 0; round < 3; ++round) {
        meshing = std::min(meshing, seconds_of([&] { mesh = generate_solid(*both.solid, {field}, 100'000'000, 1); }));
        if (round == 0) {
            std::ofstream out(file);
            out << "3\n" << mesh.nodes.size() << "\n";
            for (const Vec3& p : mesh.nodes) out << fmt::format("{:.17g} {:.17g} {:.17g}\n", p[0], p[1], p[2]);
        }
        int status = 0;
        yardstick = std::min(yardstick, seconds_of([&] {
                                 status =
                                     std::system(fmt::format("qdelaunay Qt < {} > /dev/null", file.string()).c_str());
                             }));
        if (status != 0) return 1;
    }
    std::filesystem::remove(file);
    fmt::print("complete mesh    {:9} vertices {:8} tetrahedra {:7.2f} s, qdelaunay {:.2f} s, ratio {:.2f}\n",
               mesh.nodes.size(), mesh.element_count(), meshing, yardstick, meshing / yardstick);
    return 0;
}

}  // namespace

int main(int argc, char** argv) {
    std::vector<int> counts;
    for (int k = 1; k < argc; ++k) counts.push_back(std::atoi(argv[k]));
    if (counts.empty()) counts = {100000};
    int status = 0;
    for (const int count : counts) {
        measure(count);
        status |= beside_qdelaunay(count);
    }
    return status;
}
