// How long tetrahedra of many points take: anywhere, on a lattice and on a sphere, where exact tests are asked most.
// usage: dotsift-tetrahedra-speed [POINTS ...]

#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <random>

#include "mesh/solid/tetrahedralisation.hpp"

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

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) measure(100000);
    for (int k = 1; k < argc; ++k) measure(std::atoi(argv[k]));
    return 0;
}
